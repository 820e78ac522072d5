import type { Cause, Culprit, Evidence } from "../api/client";
import { type Say, type Wording, word } from "./quantities";

interface Told {
  /** What it is. */
  name: string;
  /** The cheapest check that tells it from the others. */
  check: string;
  /** What would have avoided it. */
  avoid: string;
}

/** What can be behind a symptom. */
const culprits = (say: Say): Record<Culprit, Told> => ({
  too_hard: {
    name: "It is harder than this work wants.",
    check: `Temper it ${say.difference(15)} hotter once more, for an hour, and try again.`,
    avoid: "A hotter temper.",
  },
  coarse_grain: {
    name: "Its grain is coarse.",
    check: "Break the tip of a coupon hardened with it: velvet or glitter?",
    avoid: "Three normalizing heats, and no hotter than the middle of its window.",
  },
  brittle_temper: {
    name: "Tempered where carbon steel is brittle.",
    check: "The temper colour: purple to blue is the brittle range.",
    avoid: `Below ${say.temperature(250)}, or well above ${say.temperature(370)}.`,
  },
  thin_chips: {
    name: "The edge is too thin, or its angle too small, for this work.",
    check: "Strop it five degrees steeper and try again: if it holds, it was the angle.",
    avoid: "A steeper edge for chopping.",
  },
  no_temper: {
    name: "The temper did not do its work: too short, or an oven that ran cool.",
    check: "Look at the temper colour: none or pale says cool.",
    avoid: "Check the oven; two tempers of two hours.",
  },
  burr_broke: {
    name: "Not the blade: a burr broke off.",
    check: "Strop it well, cut into the end of a board twice, and look again.",
    avoid: "Take the burr off before a trial.",
  },
  too_soft: {
    name: "It is softer than this work wants.",
    check: "Read it at three clean places near the edge; if it is soft, ask why it is soft.",
    avoid: "A cooler temper, once it is known to be hard before it.",
  },
  burned_edge: {
    name: "The edge was burned at the belt.",
    check: "Etch the edge: a soft rim comes up in another grey.",
    avoid: "Finish grinding cool, bare-handed, wet.",
  },
  decarburized_edge: {
    name: "The edge is decarburized.",
    check: `Sharpen it back ${say.length(0.5)} and try again: if it holds now, it was the skin.`,
    avoid: "Leave the edge thicker before the fire, or coat it.",
  },
  thin_rolls: {
    name: "The edge is too thin, or its angle too small, for this work.",
    check: "Strop it five degrees steeper and try again.",
    avoid: "A steeper edge.",
  },
  soft_austenite: {
    name: "Soft austenite is left between the needles.",
    check: `Cold to ${say.temperature(-75)} and a short temper: if the edge then holds, this was it.`,
    avoid: "Sub-zero within the hour after the quench.",
  },
  burr_folded: {
    name: "Not the blade: a burr folded over.",
    check: "Strop it well and try again.",
    avoid: "Take the burr off before a trial.",
  },
  not_polished: {
    name: "It is there, but not polished out.",
    check: "One finer paper along the line, then two short dips in weak etchant.",
    avoid: "Finer and finer paper across the old scratches, then short dips, wiped between.",
  },
  deep_steel: {
    name: "This steel hardens too deep for a clear line.",
    check: "Etch a coupon of the bar quenched the same way: no line there either?",
    avoid: "A shallow steel: 1075 or W2 with little manganese.",
  },
  wide_band: {
    name: "From hard to soft takes too long a way: the band is wide.",
    check: `Measure the band after etching: wider than ${say.length(5)}, this is it.`,
    avoid: "A sharper border of the clay, or a faster bath.",
  },
  too_hot: {
    name: "It was too hot: the line runs high and soft.",
    check: "Is the line higher than predicted all along? Then it was hot.",
    avoid: "The lower half of the window, from a fine normalized grain.",
  },
  skin_over_line: {
    name: "The decarburized skin still lies over it.",
    check: `Take another ${say.length(0.1)} off one place and etch that.`,
    avoid: "Coat it, or leave more to grind.",
  },
  over_etched: {
    name: "Etched too long: the hard part went grey as well.",
    check: "Rub it back with fine powder and dip for half as long.",
    avoid: "Weak etchant, ten seconds at a time.",
  },
  clay_came_off: {
    name: "Clay came off in the fire or in the bath.",
    check: "Look at the scale: a clean bright patch where clay should have been.",
    avoid: "Dry it bone dry, roughen the steel, thin clay first and wire or ribs over it.",
  },
  clay_border: {
    name: "The clay's border is not where it was meant.",
    check: "Lay the printed sheet on the blade: does the line follow the clay as painted?",
    avoid: "Trace the border from the printed sheet, both faces.",
  },
  steam: {
    name: "Steam clung to it: cold spots in the bath.",
    check: "Soft round spots along the edge, on one face more than the other: steam.",
    avoid: "Brine instead of water, or move the blade harder along its length.",
  },
  hot_spot: {
    name: "It was hotter in one place than in another.",
    check: "The line climbs where it was hot: towards the thick or towards the thin end?",
    avoid: "Longer to even out, the tip out of the flame.",
  },
  section_moves_line: {
    name: "The blade's own section moves it: thin places harden further up.",
    check: "Compare it with the predicted line: does it rise and fall in the same places?",
    avoid: "Even bevels, or clay that follows the section.",
  },
  forged_in: {
    name: "Uneven structure from forging.",
    check: "Islands away from the line, on both faces in the same places.",
    avoid: "Three falling normalizing heats.",
  },
  uneven_cooling: {
    name: "One face cooled faster: it went in at a slant, or was moved sideways.",
    check:
      "Look which side is hollow: the face that cooled first is the outer one. Two blades bent alike say the hand.",
    avoid: "Straight down, slice forward and back, never from side to side.",
  },
  uneven_skin: {
    name: "One face lost more carbon in the fire: it swells less, and the other bends it.",
    check: "A file along both faces: does one skin bite deeper before it skates?",
    avoid: "Coating or foil, a shorter soak, the same atmosphere on both faces.",
  },
  leaned: {
    name: "It leaned, or was swept sideways, while it turned hard.",
    check: "Bent in one smooth curve from where it was held?",
    avoid: "Hang or hold it upright until it is cold; move it along its edge only.",
  },
  uneven_clay: {
    name: "The clay was not alike on both faces.",
    check: "Measure what is left of it at three places on each face.",
    avoid: "Paint it mirrored and gauge both faces.",
  },
  uneven_bevels: {
    name: "The bevels are not alike left and right.",
    check: "Calipers at the same height on both sides, or ink on the edge and a square.",
    avoid: "Grind both sides to the same scribed lines; or harden flat and grind after.",
  },
  stresses: {
    name: "Stresses from forging and grinding came free in the heat.",
    check: "Heat the next one alone without a quench: if it bends, it was in it before.",
    avoid: "Stress relief before the hardening heat.",
  },
  uneven_heat: {
    name: "It was not evenly hot, or sagged under its own weight.",
    check: "Look at the grain of two coupons from tip and heel, or at its colour in the dark.",
    avoid: "A muffle, a support along its length, and a few minutes to even out.",
  },
  towards_the_spine: {
    name: "It curved up or down, as its section makes it.",
    check: "Lay it on its spine: bent in its own plane, not sideways?",
    avoid: "Bend it the other way beforehand by as much, or change the clay's height.",
  },
  no_straightening: {
    name: "It was straight enough until it stiffened unwatched.",
    check: "Ask when it was first looked at: while it hung warm, or when cold?",
    avoid: "Straighten it while it bends easily, then clamp it for the temper.",
  },
  wrong_medium: {
    name: "The bath was too hard for this steel.",
    check: "Cracks from the edge inwards, at once, with a ping: the bath.",
    avoid: "The medium the steel is made for.",
  },
  severe_to_the_end: {
    name: "It cooled fast to the end, where martensite forms.",
    check: "Did it ping in the bath, or later on the bench? In the bath: this.",
    avoid: "Take it out of the water after two or three seconds and let oil finish it.",
  },
  stress_raiser: {
    name: "It began at a scratch, a stamp, a hole or a sharp corner.",
    check: "A glass on the end of the crack: does it start in a scratch or a corner?",
    avoid: "Sand along the blade to 220, chamfer holes and corners before the fire.",
  },
  cracked_too_hot: {
    name: "It was too hot: coarse grain cracks along its boundaries.",
    check: "Break it at the crack: grey velvet is fine, glitter is coarse.",
    avoid: "The middle of the steel's window, and no longer than the soak.",
  },
  waited_untempered: {
    name: "It waited hard and untempered.",
    check: "Was it sound when it came out, and cracked the next morning? Then this.",
    avoid: "Temper within the hour, or hold it warm.",
  },
  thin_edge_thick_spine: {
    name: "Thin edge beside a thick spine: they shrink at different times.",
    check: "Does the crack run in from the edge, square to it? Edge cracks say thin edge.",
    avoid: `Leave the edge thicker: ${say.length(1)} or more for water.`,
  },
  late_martensite: {
    name: "This steel makes brittle martensite late and cold.",
    check: "Two coupons, one in a milder bath: if only the hard one cracks, mind the steel.",
    avoid: "A milder bath, or out of it while still warm to the hand.",
  },
  not_normalized: {
    name: "It was quenched with the stresses and the grain of forging in it.",
    check: "Break a coupon of the same bar: coarse and shiny is the forge's grain.",
    avoid: "Normalize before the hardening heat.",
  },
  requenched: {
    name: "It was quenched again without normalizing between.",
    check: "Was it hardened before and not normalized since? Then this.",
    avoid: "Normalize before it is hardened again.",
  },
  skin_drawn: {
    name: "A skin without carbon turned first and was drawn apart.",
    check: "Fine cracks like a dried pond, no deeper than a grinding pass? Then this.",
    avoid: "A coat or a pouch; less time at heat; grind the skin off before the next one.",
  },
  clay_let_go: {
    name: "Clay let go in the bath: bare steel beside steel under clay.",
    check: "Does the crack run where a piece of clay is missing?",
    avoid: "Thinner coats, dried longer, on clean and roughened steel.",
  },
  flaw: {
    name: "The bar had a flaw: a cold shut, a seam, a weld that did not take.",
    check: "A dark, scaled wall in the crack was there before the quench; a bright one was not.",
    avoid: "Look at the bar's ends, grind off seams, forge hot enough.",
  },
  skin_read: {
    name: "The decarburized skin was read, not the steel under it.",
    check: `Grind ${say.length(0.2)} off one spot, cool, and read again.`,
    avoid: "Coat it or close it in foil; grind the skin off before reading.",
  },
  read_warm: {
    name: "It was still warm.",
    check: "Let it cool to the room and read once more.",
    avoid: "Wait until it is as cold as the anvil.",
  },
  tester_low: {
    name: "The tester reads low.",
    check: "Three tests on a hardness block.",
    avoid: "Check the tester against blocks before a series.",
  },
  too_cool: {
    name: "The fire was cooler than it was set.",
    check: `A magnet on the next heat, or a coupon from ${say.difference(25)} hotter, quenched and broken: if it is harder, this was it.`,
    avoid: "Check the kiln against a second thermocouple; until then set it hotter.",
  },
  short_soak: {
    name: "It was not soaked through.",
    check: "Break a coupon that soaked twice as long beside one that did not.",
    avoid: "Start the clock when the fire is back at heat, not when the blade goes in.",
  },
  slow_quench: {
    name: "The bath took its heat too slowly: cold or thick oil, a slow hand, too little of it.",
    check:
      "File edge and spine: an edge that skates under a soft spine says bath, both soft says heat.",
    avoid: `Warm the oil to ${say.temperature(50)}, stand beside it, and move the blade; or a faster medium.`,
  },
  over_tempered: {
    name: "The oven ran hotter than it was set.",
    check: "Clean a spot and look at the temper colour against the one that was predicted.",
    avoid: "Check the oven with a thermometer on a heavy tray.",
  },
  austenite_left: {
    name: "It was hotter than its window: soft austenite was left over.",
    check: `Cold it to ${say.temperature(-75)} for an hour and read again: if it gains, this was it.`,
    avoid: "Stay inside the steel's window.",
  },
  not_this_steel: {
    name: "The bar is leaner than its name says.",
    check:
      "A coupon of the bar in water from the middle of its window: if it stays soft, it is the bar.",
    avoid: "A coupon trial of every new bar.",
  },
  burned: {
    name: "It was burned at the belt.",
    check: "Etch it: a burned place comes up dark and soft-edged. Read well away from it.",
    avoid: "Bare hands at the belt, a bucket beside it, fresh grit.",
  },
  scatter: {
    name: "Nothing was wrong: blades scatter.",
    check: "Three more readings on clean places; the next blade tells.",
    avoid: "Nothing to avoid: see whether the next one is the same.",
  },
  long_temper: {
    name: "It sat in the oven much longer than planned.",
    check: "Look at the times of the firing: when it went in, when it came out.",
    avoid: "A clock on the oven, not on the wall.",
  },
});

/** A cause in words. */
export const culprit = (cause: Cause, say: Say) => culprits(say)[cause.cause];

const EVIDENCE: Wording<Evidence> = {
  read_over: (f) => `Read ${f.read_hrc.toFixed(1)} HRC, wanted ${f.most_hrc.toFixed(0)} at most.`,
  read_under: (f) =>
    `Read ${f.read_hrc.toFixed(1)} HRC, wanted ${f.least_hrc.toFixed(0)} at least.`,
  inside_wanted: () => "It was read inside what was wanted.",
  would_be: (f) => {
    const hrc = `${f.hrc.toFixed(1)} HRC`;
    const stage = f.when === "tempered" ? "after the temper" : "as quenched";
    return f.read
      ? `Then about ${hrc} would have been read ${stage}.`
      : `Then it would be about ${hrc} ${stage}.`;
  },
  nothing_read: () => "Nothing was read yet: three readings tell most.",
  grain: (f) => `Physics says ASTM ${f.astm.toFixed(1)}.`,
  fine_grain: (f) => `Physics says ASTM ${f.astm.toFixed(1)}: fine.`,
  coupon_coarse: () => "A coupon broke coarse.",
  in_brittle_range: (f, say) =>
    `${say.temperature(f.temper_c)} lies between ${say.temperatures(f.low_c, f.high_c).replace(" to ", " and ")}.`,
  behind_edge: (f, say) => `${say.fine(f.edge_mm)} behind the edge.`,
  edge_lost_carbon: (f, say) =>
    `The edge went into the fire ${say.about(f.edge_mm)} thick: ${say.fine(f.skin_mm)} a side lost carbon.`,
  skin_lost: (f, say) => `About ${say.fine(f.skin_mm)} of skin lost carbon.`,
  skin_reads_softer: (f, say) =>
    `About ${say.fine(f.skin_mm)} of skin lost carbon: ${f.skin_hrc.toFixed(1)} HRC or so.`,
  austenite_at_room: (f) => `Physics says ${f.percent.toFixed(0)} % at room temperature.`,
  deep_hardening: (f) => `Manganese and chromium together ${f.mn_cr_percent.toFixed(2)} %.`,
  wide_band: (f, say) => `Physics says ${say.about(f.band_mm)}.`,
  narrow_band: (f, say) => `Physics says only ${say.about(f.band_mm)}.`,
  over_window: (f, say) => `${say.difference(f.over_k)} over the middle of its window.`,
  usually_bends: (f, say) => `In your shop that bends this blade about ${say.about(f.mm)}.`,
  bevels_differ: (f, say) =>
    `They differ by ${f.percent.toFixed(0)} %: about ${say.about(f.bend_mm)} of bend.`,
  in_plane: (f, say) => `Physics says ${say.about(f.sori_mm)} in its own plane.`,
  times_as_likely: (f) => `It makes a crack ${f.odds.toFixed(1)} times as likely here.`,
  not_tempered: () => "It was not tempered.",
  saw_cooler_temper: () => "The thermocouple saw a cooler temper.",
  saw_no_hotter_temper: () => "The thermocouple saw no hotter temper.",
  saw_hotter_temper: () => "The thermocouple saw a hotter temper.",
  saw_at_heat: () => "The thermocouple saw it at heat.",
  saw_cooler: () => "The thermocouple saw it cooler than planned.",
  saw_no_hotter_fire: () => "The thermocouple saw no hotter fire.",
  saw_whole_soak: () => "The thermocouple saw the whole soak.",
  saw_short_soak: () => "The thermocouple saw much less than the planned soak.",
  belt_colour: () => "A colour from the belt was written down.",
  not_at_belt: () => "It was not at the belt yet.",
  no_polish: () => "No polishing was written down.",
  polished_and_etched: () => "It was polished and etched.",
  no_etch: () => "No etching was written down.",
  inside_window: () => "It was inside its window.",
  no_clay: () => "There was no clay.",
  faces_painted_differently: () => "The two faces were painted differently.",
  painted_unevenly: () => "It was laid unevenly as painted.",
  moved_as_usual: () => "The bath was moved as usual, no more.",
  not_normalized: () => "It was not normalized.",
  not_relieved: () => "Neither normalized nor stress relieved.",
  relieved: () => "It was relieved before.",
  forge_heats_one_side: () => "A forge heats from one side.",
  forge_by_eye: () => "A forge shows no number: heat is judged by eye.",
  straightened_warm: () => "It was straightened warm.",
  read_with_skin: () => "It was read with the skin on.",
  read_warm: () => "It was read while warm.",
  tester_checked: () => "It was checked against blocks.",
  kiln_checked: () => "The kiln was checked about there.",
  oven_checked: () => "The oven was checked about there.",
  bar_has_analysis: () => "The bar came with an analysis.",
  steel_by_trial: () => "Its steel is known by a trial only.",
};

/** What speaks for a cause or against it, in a sentence. */
export const evidence = (fact: Evidence, say: Say) => word(EVIDENCE, fact, say);
