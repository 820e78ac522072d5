//! What version 0.1 wrote up to migration 12, sentence by sentence, and the fact each tells.

/// A template with `{name}` for a number and `{name$}` for words, and the fact it tells. In the fact `"$name"`
/// stands for what was read, `"$name*60"` for it scaled, `"$name:medium"` for the identifier of a medium.
pub(super) type Template = (&'static str, &'static str);

/// Reasons of hardness, austenite and critical temperatures.
#[rustfmt::skip]
pub(super) const HARDNESS: &[Template] = &[
    ("Ac1 and the upper line from the table; martensite start by Andrews from what is dissolved.", r#"{"code":"levels","source":"table"}"#),
    ("By Andrews' formulas from the analysis.", r#"{"code":"levels","source":"andrews"}"#),
    ("By Andrews' formulas for the carbon and manganese it behaves as if it had.", r#"{"code":"levels","source":"trial"}"#),
    ("By formulas outside the range they were made for: wider.", r#"{"code":"levels","source":"out_of_range"}"#),
    ("{a} % of what this heat can hold went into solution, from a normalized structure.", r#"{"code":"dissolved","share":"$a*0.01","structure":"normalized"}"#),
    ("{a} % of what this heat can hold went into solution, from carbides in balls.", r#"{"code":"dissolved","share":"$a*0.01","structure":"spheroidized"}"#),
    ("{a} % carbon dissolved; martensite starts at {b} °C.", r#"{"code":"martensite_start","carbon_percent":"$a","start_c":"$b"}"#),
    ("Known by its analysis only, close to a steel in the table.", r#"{"code":"known_by_analysis","near":true}"#),
    ("Known by its analysis only and unlike the steels in the table: the interval is wide.", r#"{"code":"known_by_analysis","near":false}"#),
    ("Known by a coupon trial only: its carbon is a guess, and the interval as wide as that.", r#"{"code":"known_by_trial"}"#),
    ("{a} % austenite left over.", r#"{"code":"austenite_left","percent":"$a"}"#),
    ("Sub-zero turns {a} % of it.", r#"{"code":"cold_turns","percent":"$a"}"#),
    ("−75 °C straight after the quench would leave {a} %.", r#"{"code":"cold_would_leave","cold_c":-75.0,"percent":"$a"}"#),
    ("Only {a} % martensite where hardness is read.", r#"{"code":"partly_martensite","percent":"$a"}"#),
    ("What the temper takes from the quenched hardness.", r#"{"code":"temper_takes"}"#),
    ("Each °C of this temper takes {a} HRC; the width of the hardness sets that of the temperature.", r#"{"code":"temper_slope","hrc_per_k":"$a"}"#),
    ("The torch leaves the {p$} at about {a} HRC; where it is read nothing changes.", r#"{"code":"torched","part":"$p","hrc":"$a"}"#),
];

/// Reasons that the shop's records and checks gave.
#[rustfmt::skip]
pub(super) const RECORDS: &[Template] = &[
    ("No results of your own yet: typical published numbers. A few blades with readings narrow this.", r#"{"code":"no_results"}"#),
    ("What your results have in common.", r#"{"code":"shop_results"}"#),
    ("Your {n} results on this steel.", r#"{"code":"steel_results","results":"$n#"}"#),
    ("Your results from this bar.", r#"{"code":"bar_results"}"#),
    ("Your results near this temper.", r#"{"code":"temper_results"}"#),
    ("Your results near this thickness.", r#"{"code":"thickness_results"}"#),
    ("Your results in {m$}.", r#"{"code":"tank_results","medium":"$m:medium"}"#),
    ("Blades of the same hand.", r#"{"code":"operator_results","operator":null}"#),
    ("Blades that {h$} quenched.", r#"{"code":"operator_results","operator":"$h"}"#),
    ("The tester reads high.", r#"{"code":"tester_reads","station":null,"high":true}"#),
    ("The tester reads low.", r#"{"code":"tester_reads","station":null,"high":false}"#),
    ("{s$} reads high.", r#"{"code":"tester_reads","station":"$s","high":true}"#),
    ("{s$} reads low.", r#"{"code":"tester_reads","station":"$s","high":false}"#),
    ("Learned from {n} results, {k} on this steel: physics alone said {a}; the width is {b} HRC instead of {c}.", r#"{"code":"learned","results":"$n#","on_steel":"$k#","physics_hrc":"$a","width_hrc":"$b","width_before_hrc":"$c"}"#),
    ("{s$} runs {k} °C hot at {t} °C by its last check; counted.", r#"{"code":"check_counted","station":"$s","by_k":"$k","shown_c":"$t"}"#),
    ("{s$} runs {k} °C cool at {t} °C by its last check; counted.", r#"{"code":"check_counted","station":"$s","by_k":"$k*-1","shown_c":"$t"}"#),
    ("{s$} runs {k} °C hot at {t} °C by its last check; counted. It was checked {r$}and tells {p} % of what it would tell fresh and here.", r#"{"code":"check_counted","station":"$s","by_k":"$k","shown_c":"$t","faded":{"reach":"$r","tells":"$p*0.01"}}"#),
    ("{s$} runs {k} °C cool at {t} °C by its last check; counted. It was checked {r$}and tells {p} % of what it would tell fresh and here.", r#"{"code":"check_counted","station":"$s","by_k":"$k*-1","shown_c":"$t","faded":{"reach":"$r","tells":"$p*0.01"}}"#),
    ("{s$} was checked {r$}: that says little of {t} °C, which stays as unknown as before.", r#"{"code":"check_tells_little","station":"$s","shown_c":"$t","reach":{"reach":"$r","tells":0.0}}"#),
];

/// What results say of a fire or an oven: by whether it moved the hardness before or after the temper.
#[rustfmt::skip]
pub(super) const FIRES: [Template; 2] = [
    ("{s$} runs {k} °C hot.", r#"{"station":"$s","by_k":"$k"}"#),
    ("{s$} runs {k} °C cool.", r#"{"station":"$s","by_k":"$k*-1"}"#),
];

/// Reasons of the whole blade.
#[rustfmt::skip]
pub(super) const OUTCOMES: &[Template] = &[
    ("Half martensite {a} mm above the edge on the mean; the change from hard to soft takes {b} mm: a crisp line.", r#"{"code":"line_at","height_mm":"$a","band_mm":"$b","crisp":true}"#),
    ("Half martensite {a} mm above the edge on the mean; the change from hard to soft takes {b} mm: a soft, cloudy line.", r#"{"code":"line_at","height_mm":"$a","band_mm":"$b","crisp":false}"#),
    ("The engine sees no line here; your own records of blades like this put one there.", r#"{"code":"line_from_records"}"#),
    ("Your own lines came out {a} mm higher than simulated.", r#"{"code":"lines_moved","by_mm":"$a"}"#),
    ("Your own lines came out {a} mm lower than simulated.", r#"{"code":"lines_moved","by_mm":"$a*-1"}"#),
    ("Clay that cracks off in the quench ruins the line; it dries overnight or an hour at 200 °C.", r#"{"code":"clay_must_hold","dry_c":200.0,"dry_s":3600.0}"#),
    ("{a} % of the middle of the blade hardens; grain {b} and {c} % carbon in solution set how fast it must cool.", r#"{"code":"middle_hardens","percent":"$a","grain_astm":"$b","carbon_percent":"$c"}"#),
    ("It stays straight from edge to spine.", r#"{"code":"stays_straight"}"#),
    ("The edge ends longer than the spine: it curves {a} mm towards the spine.", r#"{"code":"curves","sori_mm":"$a"}"#),
    ("The spine ends longer than the edge: it curves {a} mm towards the edge.", r#"{"code":"curves","sori_mm":"$a*-1"}"#),
    ("A tenth more cooling on one face bends it {a} mm sideways; quenches differ by about {b} % from face to face.", r#"{"code":"uneven_cooling","per_tenth_mm":"$a","unevenness_percent":"$b"}"#),
    ("The clay differs from face to face: that alone bends it {a} mm sideways.", r#"{"code":"uneven_clay","side_mm":"$a"}"#),
    ("The bevels differ from side to side: that alone bends it {a} mm sideways.", r#"{"code":"uneven_bevels","side_mm":"$a"}"#),
    ("The carbon in solution makes hard, brittle martensite. Odds × {a}.", r#"{"code":"crack_cause","cause":"carbon","odds":"$a"}"#),
    ("Martensite forms late, in a cold and stiff blade. Odds × {a}.", r#"{"code":"crack_cause","cause":"late_martensite","odds":"$a"}"#),
    ("The medium still takes heat fast where martensite forms. Odds × {a}.", r#"{"code":"crack_cause","cause":"severe_medium","odds":"$a"}"#),
    ("This steel hardens in a milder medium than this one. Odds × {a}.", r#"{"code":"crack_cause","cause":"wrong_medium","odds":"$a"}"#),
    ("Thin edge beside a thick spine. Odds × {a}.", r#"{"code":"crack_cause","cause":"section","odds":"$a"}"#),
    ("Scratches or sharp corners raise the stress. Odds × {a}.", r#"{"code":"crack_cause","cause":"stress_raisers","odds":"$a"}"#),
    ("Hotter than the steel's window. Odds × {a}.", r#"{"code":"crack_cause","cause":"overheated","odds":"$a"}"#),
    ("Waiting hard and untempered. Odds × {a}.", r#"{"code":"crack_cause","cause":"untempered","odds":"$a"}"#),
    ("From what smiths and handbooks say; your own cracked and sound blades will move it.", r#"{"code":"cracks_by_handbook"}"#),
    ("With {n} blades of your own.", r#"{"code":"cracks_by_records","blades":"$n#"}"#),
    ("Your broken coupons were {a} numbers finer than computed.", r#"{"code":"coupons_finer","by_astm":"$a"}"#),
    ("Your broken coupons were {a} numbers coarser than computed.", r#"{"code":"coupons_finer","by_astm":"$a*-1"}"#),
    ("Mean grain {a} µm when it is quenched; each pass through critical halves it, down to {b} µm, and time at heat lets it grow.", r#"{"code":"grain_at_quench","grain_um":"$a","finest_um":"$b"}"#),
    ("{a} mm of skin loses carbon on each face: the edge is thinner than that, grind it after hardening or protect it.", r#"{"code":"skin_lost","depth_mm":"$a","edge_gone":true}"#),
    ("{a} mm of skin loses carbon on each face; grind it off before you test.", r#"{"code":"skin_lost","depth_mm":"$a","edge_gone":false}"#),
    ("In a kiln the edge is at heat after {a} min, the thickest part after {b}: count the soak from then, {c} min or more.", r#"{"code":"soak_from","furnace":"kiln","edge_s":"$a*60","spine_s":"$b*60","ready_after_s":"$b*60","soak_s":"$c*60"}"#),
    ("In an open forge the edge is at heat after {a} min, the thickest part after {b}: count the soak from then, {c} min or more.", r#"{"code":"soak_from","furnace":"forge","edge_s":"$a*60","spine_s":"$b*60","ready_after_s":"$b*60","soak_s":"$c*60"}"#),
    ("In a pipe in the forge the edge is at heat after {a} min, the thickest part after {b}: count the soak from then, {c} min or more.", r#"{"code":"soak_from","furnace":"pipe","edge_s":"$a*60","spine_s":"$b*60","ready_after_s":"$b*60","soak_s":"$c*60"}"#),
    ("In an oven the edge is at heat after {a} min, the thickest part after {b}: count the soak from then, {c} min or more.", r#"{"code":"soak_from","furnace":"oven","edge_s":"$a*60","spine_s":"$b*60","ready_after_s":"$b*60","soak_s":"$c*60"}"#),
];

/// Why there is no line.
#[rustfmt::skip]
pub(super) const NO_LINE: &[Template] = &[
    ("Never above Ac1 ({a} °C): nothing hardens.", r#"{"code":"never_hot","ac1_c":"$a"}"#),
    ("It hardens right through to the spine: nothing soft for a line to border on.", r#"{"code":"hardens_through"}"#),
    ("Even the edge stays soft over the whole length.", r#"{"code":"stays_soft"}"#),
];

#[rustfmt::skip]
pub(super) const WARNINGS: &[Template] = &[
    ("{a} °C is below Ac1 ({b} °C) of {s$}: nothing becomes austenite, so nothing hardens.", r#"{"code":"below_ac1","temperature_c":"$a","ac1_c":"$b","steel":"$s"}"#),
    ("{a} °C is above {b} °C, where grain of {s$} coarsens within ten minutes.", r#"{"code":"coarse_grain","temperature_c":"$a","coarsening_c":"$b","steel":"$s"}"#),
    ("{a} °C is outside {b} to {c} °C, the usual window of {s$}.", r#"{"code":"outside_window","temperature_c":"$a","low_c":"$b","high_c":"$c","steel":"$s"}"#),
    ("{a} min dissolves only {b} % of the carbon this heat can hold. {c} min takes most of it.", r#"{"code":"short_soak","soak_s":"$a*60","dissolved_share":"$b*0.01","enough_s":"$c*60"}"#),
    ("Above 425 °C {s$} loses its stainlessness.", r#"{"code":"stainless_too_hot","limit_c":425.0,"steel":"$s"}"#),
    ("260 to 370 °C is the brittle range: martensite tempered there snaps sooner than it is soft.", r#"{"code":"brittle_temper","low_c":260.0,"high_c":370.0}"#),
    ("Clay is painted for this blade, but no step lays it on and dries it: it is predicted bare.", r#"{"code":"clay_not_planned"}"#),
    ("No clay is laid out yet: paint it under Clay, or the line is computed bare.", r#"{"code":"clay_not_painted"}"#),
    ("Clay wants an hour at 200 °C or a night in the air; steam under it throws it off.", r#"{"code":"clay_wet","dry_s":3600.0,"dry_c":200.0}"#),
    ("A pouch keeps the bath off the blade: cut it open on the way, or quench between plates.", r#"{"code":"pouch_in_bath"}"#),
    ("Cold and untempered it snaps before it bends: straighten on the way down, or clamped in the temper.", r#"{"code":"cold_straighten"}"#),
    ("At {a} °C {b} % austenite is left, at room temperature {c} %. Tempering from warm is safer from cracks, and leaves it softer.", r#"{"code":"tempered_warm","temperature_c":"$a","austenite_percent":"$b","at_room_percent":"$c"}"#),
    ("After {a} h the austenite has settled: sub-zero gains {b} % less than straight after the quench.", r#"{"code":"waiting_for_cold","wait_s":"$a*3600","lost_share":"$b*0.01"}"#),
    ("A torch on an untempered blade cracks it: temper first.", r#"{"code":"torch_untempered"}"#),
    ("{s$} has too little carbon for an edge.", r#"{"code":"not_hardenable","steel":"$s"}"#),
    ("The edge is {a} mm: thin for a bare kiln. It can burn, ripple or lose its carbon; 0.5 mm or more is safer.", r#"{"code":"thin_edge","edge_mm":"$a","safe_mm":0.5}"#),
    ("{s$} hardens in air; normalizing leaves it hard and strained.", r#"{"code":"no_normalize","steel":"$s"}"#),
    ("This normalizing heat is {a} °C hotter than the one before; falling heats leave finer grain.", r#"{"code":"rising_heats","rise_k":"$a"}"#),
    ("{s$} is no water steel: in water it is likely to crack.", r#"{"code":"water_on_oil_steel","steel":"$s"}"#),
    ("After {a} s in the last bath it comes out into still air, and is predicted so. Leave the time off to keep it in until it is cold.", r#"{"code":"out_into_air","after_s":"$a"}"#),
    ("Sub-zero after a temper gains little: the austenite has settled.", r#"{"code":"late_sub_zero"}"#),
    ("Under this clay it stays soft where hardness is read: begin it higher, or lay it on thinner.", r#"{"code":"clay_too_low"}"#),
    ("The edge hardens; the spine ({a} mm) is too thick for this quench, which reaches about {b} mm.", r#"{"code":"spine_stays_soft","spine_mm":"$a","reach_mm":"$b"}"#),
    ("This section is too thick for this quench: it reaches about {a} mm in {s$}. Expect a soft blade.", r#"{"code":"too_thick","reach_mm":"$a","steel":"$s"}"#),
    ("There is no temper after the quench: the blade stays as brittle as glass.", r#"{"code":"no_temper"}"#),
    ("{a} % austenite is left over; sub-zero straight after the quench turns most of it.", r#"{"code":"wants_sub_zero","austenite_percent":"$a"}"#),
];

/// What keeps the steels of a bar apart, as a warning had it.
#[rustfmt::skip]
pub(super) const CONFLICTS: &[Template] = &[
    ("{a$} wants at least {x} °C, {b$} bears at most {y} °C: at {z} °C the grain of {c$} grows coarse.", r#"{"code":"windows","wants":"$a","low_c":"$x","bears":"$b","high_c":"$y","coarse":true}"#),
    ("{a$} wants at least {x} °C, {b$} bears at most {y} °C: between them {c$} dissolves too little and {d$} keeps too much austenite.", r#"{"code":"windows","wants":"$a","low_c":"$x","bears":"$b","high_c":"$y","coarse":false}"#),
    ("{a$} cracks in {m$}, which {b$} would take.", r#"{"code":"cracks","steel":"$a","medium":"$m:medium","edge":"$b"}"#),
    ("{a$} stays soft in what hardens {b$}.", r#"{"code":"stays_soft","steel":"$a","edge":"$b"}"#),
    ("No bath suits all of them with {a$} at the edge.", r#"{"code":"no_bath","edge":"$a"}"#),
];

/// What a check that fails costs.
#[rustfmt::skip]
pub(super) const COSTS: &[Template] = &[
    ("Left undone, cracks go from {a} % to {b} % of such blades{r$}.", r#"{"code":"cracks","done":"$a*0.01","undone":"$b*0.01"}"#),
    ("Left undone, cracks go from {a} % to {b} % of such blades.", r#"{"code":"cracks","done":"$a*0.01","undone":"$b*0.01"}"#),
    ("Hardened steel cannot be stamped; after that only etching marks it.", r#"{"code":"no_stamp"}"#),
    ("Without a line the edge wanders off the middle when it is ground.", r#"{"code":"edge_wanders"}"#),
    ("Grease smokes and burns on: scale spots, and coating and clay let go there.", r#"{"code":"spots"}"#),
    ("They differ by up to {a} mm: the faces cool {b} % apart, which bends it {c} mm to one side.", r#"{"code":"bevels_differ","off_mm":"$a","cooling_percent":"$b","side_mm":"$c"}"#),
    ("For each 10 % that one side is thicker, it bends {a} mm sideways.", r#"{"code":"bevels_bend","per_tenth_mm":"$a"}"#),
    ("{a} mm of edge, and {b} mm of skin lost on each face: nothing sound is left. Leave it thicker, coat it, or grind after hardening.", r#"{"code":"edge","edge_mm":"$a","skin_mm":"$b","sound_mm":0.0,"thin":true}"#),
    ("{a} mm of edge, {b} mm of skin lost on each face: {c} mm stays sound; it may ripple or burn.", r#"{"code":"edge","edge_mm":"$a","skin_mm":"$b","sound_mm":"$c","thin":true}"#),
    ("{a} mm of edge, {b} mm of skin lost on each face: {c} mm stays sound.", r#"{"code":"edge","edge_mm":"$a","skin_mm":"$b","sound_mm":"$c","thin":false}"#),
];

#[rustfmt::skip]
pub(super) const OUT_OF_REACH: &[Template] = &[
    ("Add a temper to the plan first.", r#"{"code":"no_temper"}"#),
    ("{w} HRC is more than this plan reaches: {a} at the coolest temper.", r#"{"code":"too_hard","top_hrc":"$a"}"#),
    ("No temper up to 600 °C brings this down to {w} HRC.", r#"{"code":"too_soft","hottest_c":600.0}"#),
];

#[rustfmt::skip]
pub(super) const NEXT: &[Template] = &[
    ("{l$} raises the chance of {a} to {b} HRC from {x} to {y} %, and would show how your oven runs there.", r#"{"low_hrc":"$a","high_hrc":"$b","teaches":"oven"}"#),
    ("{l$} raises the chance of {a} to {b} HRC from {x} to {y} %, and would show how true your fire runs.", r#"{"low_hrc":"$a","high_hrc":"$b","teaches":"fire"}"#),
    ("{l$} raises the chance of {a} to {b} HRC from {x} to {y} %, and would show whether the carbon had gone into solution.", r#"{"low_hrc":"$a","high_hrc":"$b","teaches":"solution"}"#),
    ("{l$} raises the chance of {a} to {b} HRC from {x} to {y} %, and would show how much austenite was left.", r#"{"low_hrc":"$a","high_hrc":"$b","teaches":"austenite"}"#),
];

#[rustfmt::skip]
pub(super) const LOG_NOTES: &[Template] = &[
    ("{n} row without a time or a temperature left out.", r#"{"code":"rows_left_out","rows":"$n#"}"#),
    ("{n} rows without a time or a temperature left out.", r#"{"code":"rows_left_out","rows":"$n#"}"#),
    ("{n} row says °F where the others do not: turned into the same unit.", r#"{"code":"other_unit","rows":"$n#","fahrenheit":true}"#),
    ("{n} rows say °F where the others do not: turned into the same unit.", r#"{"code":"other_unit","rows":"$n#","fahrenheit":true}"#),
    ("{n} row says °C where the others do not: turned into the same unit.", r#"{"code":"other_unit","rows":"$n#","fahrenheit":false}"#),
    ("{n} rows say °C where the others do not: turned into the same unit.", r#"{"code":"other_unit","rows":"$n#","fahrenheit":false}"#),
    ("The clock went back {n} time: time was taken to go on.", r#"{"code":"clock_went_back","times":"$n#"}"#),
    ("The clock went back {n} times: time was taken to go on.", r#"{"code":"clock_went_back","times":"$n#"}"#),
    ("It goes past midnight.", r#"{"code":"past_midnight"}"#),
    ("It goes up to {a} °C, hotter than steel is treated: if the log is in °F, say so.", r#"{"code":"too_hot","hottest_c":"$a"}"#),
    ("Nothing for {a} min, perhaps a clock that was put forward: not counted.", r#"{"code":"gap","gap_s":"$a*60","clock_put_forward":true}"#),
    ("Nothing for {a} min: not counted.", r#"{"code":"gap","gap_s":"$a*60","clock_put_forward":false}"#),
    ("{n} more gaps.", r#"{"code":"more_gaps","gaps":"$n#"}"#),
    ("{n} samples: of each stretch the hottest and the coolest are kept.", r#"{"code":"thinned","samples_read":"$n#"}"#),
];
