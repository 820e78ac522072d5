//! Writes the demo shop, `demo/brinholm.json`, from a truth that the application does not know:
//! `cargo run -p vatten-server --example make_demo > demo/brinholm.json`. `docs/demo.md` says what
//! the truth is. Everything is made up and the same every time.

use serde_json::{Value, json};
use std::collections::HashMap;
use std::error::Error;
use time::format_description::well_known::Rfc3339;
use time::macros::datetime;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::advice::method::usual;
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::geometry::clay::ClayDraft;
use vatten_core::geometry::shape::Shape;
use vatten_core::learning::bias_model::CURVE_LENGTH_MM;
use vatten_core::learning::bias_models::BiasModels;
use vatten_core::material::analysis::Analysis;
use vatten_core::material::medium::Medium;
use vatten_core::material::purpose::Purpose;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::outcome::{Outcomes, outcomes};
use vatten_core::process::plan::{Plan, Stations};
use vatten_core::process::ready::Ready;
use vatten_core::process::sighting::{Glow, Light, Sighting, Sign};
use vatten_core::process::step::{Stage, Step};
use vatten_core::process::workpiece::Workpiece;
use vatten_core::quantity::units::{Celsius, Kelvins, Quantity, Seconds};
use vatten_core::record::firing::{Doing, Mark, actions};
use vatten_core::record::ladder::{Along, Ladder};
use vatten_core::simulation::warp::driver::Driver;
use vatten_standins::shop::{CameOut, Shop};

// The truth.
const OVEN_HOT_C: f64 = 9.0;
const KILN_HOT_C: f64 = -4.0;
const TESTER_HIGH_HRC: f64 = 0.6;
const STEEL_SPREAD_HRC: f64 = 0.5;
const BLADE_SPREAD_HRC: f64 = 0.35;
const CARELESS_SPREAD_HRC: f64 = 1.5;
const READING_SPREAD_HRC: f64 = 0.45;
/// Who quenches: the way from the fire to the tank, s; how much they lean and what is left in the steel, against
/// what is usual. The second operator is slower, leans, and is short with the normalizing.
const HANDS: [(&str, f64, [f64; 2]); 2] = [("Tove", 1.5, [0.6, 0.7]), ("Aksel", 4.0, [2.4, 2.0])];
/// Whose eye is held against the thermocouple, how much cooler than it is steel looks to it, and how far one look is
/// off beside that, °C.
const EYE_OF: &str = "Aksel";
const EYE_LOW_C: f64 = 20.0;
const EYE_SCATTER_C: f64 = 14.0;
/// How much further than simulated a blade curves to the spine, mm as on 240 mm.
const SORI_FURTHER_MM: f64 = 0.25;
/// How far past straight bowed blades are shimmed in the temper, and the share of all that which stays: the rule says
/// about three tenths.
const SHIM_PER_MM: f64 = 1.5;
const CLAMP_TAKES_OUT: f64 = 0.4;
/// How even the shop grinds its bevels, and how even its fire is on both faces, against what is usual.
const BEVELS: f64 = 0.8;
const SKIN: f64 = 0.6;
const LINE_HIGHER_MM: f64 = 1.3;
const GRAIN_FINER: f64 = 0.7;
/// Days before the end in which the smith was careless.
const CARELESS_DAYS: std::ops::Range<i64> = 150..180;

/// The one that cracked: a paring blade of W2, in water.
const CRACKED: usize = 11;
/// The one on the bench with its clay laid out.
const CLAY_LAID_OUT: usize = 33;

/// The steel of the ladder of tempers.
const LADDER_OF: &str = "80crv2";

const NOW: OffsetDateTime = datetime!(2026-11-25 09:00 UTC);
const KILN: Uuid = Uuid::from_u128(0x0190_0000_0000_7000_8000_0000_0000_0001);
const OVEN: Uuid = Uuid::from_u128(0x0190_0000_0000_7000_8000_0000_0000_0002);
const TESTER: Uuid = Uuid::from_u128(0x0190_0000_0000_7000_8000_0000_0000_0003);
const FORGE: Uuid = Uuid::from_u128(0x0190_0000_0000_7000_8000_0000_0000_0004);
const EYE: Uuid = Uuid::from_u128(0x0190_0000_0000_7000_8000_0000_0000_0006);
const SPRING: Uuid = Uuid::from_u128(0x0190_0000_0000_7000_8000_0000_0000_0005);
const O2_BAR: Uuid = Uuid::from_u128(0x0194_f1a0_0000_7000_8000_0000_0000_00b1);

/// A fixed stream of normal numbers.
struct Chance(u64);

impl Chance {
    fn uniform(&mut self) -> f64 {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 11) as f64 / (1u64 << 53) as f64
    }

    fn normal(&mut self) -> f64 {
        (0..12).map(|_| self.uniform()).sum::<f64>() - 6.0
    }

    fn between(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.uniform()
    }
}

/// Steel, shape, name, purpose, days before the end.
const FINISHED: [(&str, Shape, &str, Purpose, i64); 30] = [
    ("1084", Shape::Plain, "Bench blade", Purpose::AllRound, 352),
    ("5160", Shape::Bill, "Hedge bill", Purpose::Heavy, 344),
    ("w2", Shape::ReedHook, "Reed hook", Purpose::FineEdge, 331),
    (
        "80crv2",
        Shape::Drawing,
        "Drawing blade",
        Purpose::AllRound,
        322,
    ),
    ("1084", Shape::Net, "Net blade", Purpose::AllRound, 309),
    (
        "x65cr13",
        Shape::Oyster,
        "Oyster blade",
        Purpose::AllRound,
        297,
    ),
    (
        "o2",
        Shape::Grafting,
        "Grafting blade",
        Purpose::FineEdge,
        288,
    ),
    ("52100", Shape::Net, "Sail blade", Purpose::FineEdge, 275),
    ("1075", Shape::Bill, "Willow bill", Purpose::Heavy, 266),
    (
        "80crv2",
        Shape::ReedHook,
        "Thatch hook",
        Purpose::AllRound,
        254,
    ),
    (
        "115crv3",
        Shape::Grafting,
        "Budding blade",
        Purpose::FineEdge,
        243,
    ),
    ("w2", Shape::Plain, "Paring blade", Purpose::FineEdge, 231),
    (
        "1084",
        Shape::Drawing,
        "Spoke blade",
        Purpose::AllRound,
        220,
    ),
    ("5160", Shape::Bill, "Orchard bill", Purpose::Heavy, 209),
    ("spring", Shape::Bill, "Nettle hook", Purpose::Heavy, 201),
    ("x65cr13", Shape::Net, "Quay blade", Purpose::AllRound, 190),
    ("o2", Shape::Plain, "Marking blade", Purpose::FineEdge, 176),
    (
        "52100",
        Shape::Grafting,
        "Scion blade",
        Purpose::FineEdge,
        169,
    ),
    ("80crv2", Shape::Bill, "Hazel bill", Purpose::Heavy, 161),
    ("1084", Shape::ReedHook, "Rush hook", Purpose::AllRound, 154),
    (
        "w1",
        Shape::Grafting,
        "Grafting blade",
        Purpose::FineEdge,
        141,
    ),
    (
        "115crv3",
        Shape::Plain,
        "Caulking blade",
        Purpose::AllRound,
        127,
    ),
    ("w2", Shape::Grafting, "Vine blade", Purpose::FineEdge, 112),
    ("5160", Shape::Drawing, "Bark blade", Purpose::Springy, 98),
    ("o2", Shape::Drawing, "Stave blade", Purpose::AllRound, 84),
    ("52100", Shape::Plain, "Rope blade", Purpose::FineEdge, 70),
    ("1075", Shape::Plain, "Bench blade", Purpose::AllRound, 55),
    (
        "x65cr13",
        Shape::Oyster,
        "Oyster blade",
        Purpose::AllRound,
        41,
    ),
    ("80crv2", Shape::Net, "Net blade", Purpose::AllRound, 27),
    (
        "1084",
        Shape::Plain,
        "Splicing blade",
        Purpose::AllRound,
        13,
    ),
];

/// How far a blade in work has come.
#[derive(Clone, Copy, PartialEq)]
enum Until {
    LookedOver,
    InCold,
    SecondTemper,
    Soak,
    Closed,
}

impl Until {
    /// Whether that is what goes on.
    fn is(self, doing: Doing) -> bool {
        match self {
            Self::LookedOver => doing == Doing::LookingOver {},
            Self::InCold => doing == Doing::InCold {},
            Self::SecondTemper => matches!(doing, Doing::Holding { heat } if heat.number == 2),
            Self::Soak => matches!(doing, Doing::Soaking { .. }),
            Self::Closed => false,
        }
    }
}

/// Steel, shape, name, purpose, days since entered, minutes since the last action, how far it has come
/// (None: not fired).
type InWork = (
    &'static str,
    Shape,
    &'static str,
    Purpose,
    i64,
    i64,
    Option<Until>,
);
const IN_WORK: [InWork; 6] = [
    (
        "80crv2",
        Shape::Bill,
        "Hazel bill",
        Purpose::Heavy,
        6,
        38,
        Some(Until::LookedOver),
    ),
    (
        "x65cr13",
        Shape::Oyster,
        "Oyster blade",
        Purpose::AllRound,
        5,
        55,
        Some(Until::InCold),
    ),
    (
        "115crv3",
        Shape::Grafting,
        "Budding blade",
        Purpose::FineEdge,
        4,
        68,
        Some(Until::SecondTemper),
    ),
    (
        "w2",
        Shape::ReedHook,
        "Reed hook",
        Purpose::FineEdge,
        3,
        0,
        None,
    ),
    (
        "o2",
        Shape::Grafting,
        "Grafting blade",
        Purpose::FineEdge,
        2,
        0,
        None,
    ),
    (
        "1084",
        Shape::Net,
        "Net blade",
        Purpose::AllRound,
        1,
        4,
        Some(Until::Soak),
    ),
];

fn spring_analysis() -> Analysis {
    Analysis {
        carbon: 0.61,
        silicon: 0.27,
        manganese: 0.88,
        chromium: 0.78,
        ..Analysis::default()
    }
}

fn find(key: &str) -> Result<Steel, Box<dyn Error>> {
    if key == "spring" {
        return Ok(Steel::from_analysis(
            &SPRING.to_string(),
            "Old leaf spring",
            &spring_analysis(),
        ));
    }
    Ok(Steel::built_in(key).ok_or("steel")?.clone())
}

fn size(shape: Shape, chance: &mut Chance) -> (f64, f64, f64, f64) {
    let (length, width, spine) = match shape {
        Shape::Plain => (150.0, 26.0, 3.5),
        Shape::ReedHook => (190.0, 28.0, 4.0),
        Shape::Grafting => (95.0, 20.0, 2.8),
        Shape::Bill => (230.0, 52.0, 5.5),
        Shape::Drawing => (240.0, 34.0, 5.0),
        Shape::Oyster => (88.0, 26.0, 3.0),
        Shape::Net => (120.0, 22.0, 2.5),
    };
    let round = |x: f64, step: f64| (x / step).round() * step;
    (
        round(length * chance.between(0.94, 1.06), 1.0),
        round(width * chance.between(0.95, 1.05), 1.0),
        (round(spine * chance.between(0.9, 1.1), 0.1) * 10.0).round() / 10.0,
        (round(chance.between(0.55, 1.05), 0.05) * 100.0).round() / 100.0,
    )
}

/// Thin legs of clay down towards the edge.
fn legs(length_mm: f64) -> Vec<Value> {
    let mut x = 14.0;
    let mut all = Vec::new();
    while x < 0.75 * length_mm {
        all.push(
            json!({ "points": [[x + 1.5, 15.0], [x, 6.0]], "width_mm": 1.6, "thickness_mm": 1.0 }),
        );
        x += 15.0;
    }
    all
}

fn at(time: OffsetDateTime) -> Result<String, Box<dyn Error>> {
    Ok(time.format(&Rfc3339)?)
}

/// Places along the edge for a set of values, mm.
fn places(values: &Value, blade: &Blade) -> Vec<[f64; 2]> {
    let count = values.as_array().map_or(0, Vec::len);
    (0..count)
        .map(|i| {
            let share = (i as f64 + 1.0) / (count as f64 + 1.5);
            [
                (share * blade.length_mm).round(),
                (0.14 * blade.width_mm).round(),
            ]
        })
        .collect()
}

/// What is seen of every blade: how it came from the quench, whether it cracked, its line where it has one,
/// and the grain of a coupon of some.
fn seen(
    predicted: &Outcomes,
    blade: &Blade,
    [lean, left]: [f64; 2],
    cracked: bool,
    quenched: OffsetDateTime,
    chance: &mut Chance,
) -> Result<Vec<Value>, Box<dyn Error>> {
    // Plus zero, so that no −0 is written.
    let tenth = |x: f64| (10.0 * x).round() / 10.0 + 0.0;
    let sag = predicted.bend.parts.iter().fold(0.0, |sag, part| {
        let times = match part.driver {
            Driver::Bevels => BEVELS,
            Driver::Skin => SKIN,
            Driver::Lean => lean,
            Driver::Rest => left,
            Driver::Film | Driver::Cooling | Driver::Support => 1.0,
        };
        sag + times * part.mm * chance.normal()
    });
    let soon = at(quenched + Duration::minutes(9))?;
    let later = at(quenched + Duration::days(2))?;
    let mut all = vec![
        json!({ "found": { "kind": "side", "sag_mm": tenth(sag) }, "found_at": soon }),
        json!({ "found": { "kind": "crack", "cracked": cracked }, "found_at": later,
            "note": if cracked { "a hair at the heel, ground out" } else { "glass and lamp" } }),
    ];
    let own = LINE_HIGHER_MM + 0.5 * chance.normal();
    if let Some(line) = predicted.hamon.line() {
        let places: Vec<[f64; 2]> = [0.3, 0.5, 0.7]
            .iter()
            .filter_map(|share| {
                let x = (share * blade.length_mm).round();
                let height = line.simulated_mm(x)? + own + 0.4 * chance.normal();
                Some([x, tenth(height.clamp(0.5, blade.width_mm))])
            })
            .collect();
        let band = tenth(line.band_mm * (0.15 + 0.2 * chance.normal()).exp());
        all.push(
            json!({ "found": { "kind": "line", "places": places, "band_mm": band, "clarity": 3 },
            "found_at": later }),
        );
    }
    if chance.uniform() < 0.4 {
        let astm = predicted.grain_astm + GRAIN_FINER + 0.4 * chance.normal();
        all.push(json!({ "found": { "kind": "grain", "astm": (2.0 * astm).round() / 2.0 }, "found_at": later,
            "note": "coupon of the same bar" }));
    }
    if chance.uniform() < 0.6 {
        let as_told = (blade.length_mm / CURVE_LENGTH_MM).powi(2);
        let sori = predicted.bend.sori_mm + as_told * (SORI_FURTHER_MM + 0.12 * chance.normal());
        all.push(json!({ "found": { "kind": "sori", "sori_mm": tenth(sori) }, "found_at": soon }));
    }
    let bow = tenth(sag.abs());
    if bow >= 0.4 {
        let shim = tenth(SHIM_PER_MM * bow);
        let took_out = CLAMP_TAKES_OUT * (0.15 * chance.normal()).exp();
        let left = tenth(bow - took_out * (bow + shim));
        all.push(
            json!({ "found": { "kind": "clamped", "bow_mm": bow, "shim_mm": shim, "left_mm": left },
            "found_at": later, "note": "in the first temper, two bars and a strip of brass" }),
        );
    }
    Ok(all)
}

/// What a careful smith writes down of a blade that came out well.
fn looked_at(blade: &Blade, end: OffsetDateTime) -> Result<Vec<Value>, Box<dyn Error>> {
    let mut all = Vec::new();
    let along = [0.2, 0.5, 0.8].map(|share| (share * blade.length_mm).round());
    let off = along.iter().zip([0.1, 0.3, 0.2]).map(|(x, off)| [*x, off]);
    all.push(json!({ "found": { "kind": "straight", "after": "temper", "places": off.collect::<Vec<_>>() },
            "found_at": at(end + Duration::hours(2))? }));
    for (hours, found, note) in [
        (
            20,
            json!({ "kind": "polish", "with": "600 paper, along the blade" }),
            "",
        ),
        (
            26,
            json!({ "kind": "trial", "work": "carve", "edge": "held", "strokes": 150 }),
            "apple wood",
        ),
    ] {
        let when = at(end + Duration::hours(hours))?;
        all.push(json!({ "found": found, "note": note, "found_at": when }));
    }
    Ok(all)
}

/// Confirms actions from `start`, up to and with position `last`; gives the events and when each was.
fn confirm(
    steps: &[Step],
    start: OffsetDateTime,
    last: usize,
    chance: &mut Chance,
) -> Result<(Vec<Value>, Vec<OffsetDateTime>), Box<dyn Error>> {
    let (mut events, mut times, mut now) = (Vec::new(), Vec::new(), start);
    for (i, action) in actions(steps).iter().enumerate().take(last + 1) {
        times.push(now);
        events.push(json!({ "at": at(now)?, "what": { "kind": "confirm", "action": i } }));
        let quenching = matches!(steps[action.step], Step::Quench { .. });
        let seconds = match action.lasts_s {
            Some(lasts) if quenching => lasts,
            Some(lasts) => lasts * chance.between(0.98, 1.1),
            None if quenching => 420.0,
            None if matches!(action.doing, Doing::Heating { .. }) => 1100.0,
            None => 1500.0,
        };
        now += Duration::seconds_f64(seconds);
    }
    Ok((events, times))
}

/// What would be read, by the truth.
fn readings(true_hrc: f64, chance: &mut Chance) -> Vec<f64> {
    let count = if chance.uniform() < 0.3 { 4 } else { 3 };
    (0..count)
        .map(|_| {
            let read = true_hrc + TESTER_HIGH_HRC + READING_SPREAD_HRC * chance.normal();
            (read * 2.0).round() / 2.0
        })
        .collect()
}

/// A row of the tables of blades: steel, shape, name, purpose, days ago, minutes ago, and how far it is.
type Row = (
    &'static str,
    Shape,
    &'static str,
    Purpose,
    i64,
    i64,
    Option<Until>,
);
type Made<T> = Result<T, Box<dyn Error>>;

const STATIONS: Stations = Stations {
    kiln: Some(KILN),
    oven: Some(OVEN),
    eye: None,
};

/// How things really are: not as the engine has them.
fn truth() -> Shop {
    Shop {
        kiln: Kelvins::of(KILN_HOT_C),
        oven: Kelvins::of(OVEN_HOT_C),
        slow_steel: ("1075", 1.4),
        tank: (Medium::FastOil, 0.8),
        tilt_hrc_per_100k: 0.8,
    }
}

/// A water steel goes into the water first, whatever oil would do.
fn water_first(step: &mut Step) {
    if let Step::Quench { stages } = step {
        let water = Stage {
            for_s: Some(Seconds::clamped(2.0)),
            ..Stage::until_cold(Medium::Water)
        };
        *stages = vec![water, Stage::until_cold(Medium::FastOil)];
    }
}

/// Lays clay before the last hardening heat.
fn lay_clay(steps: &mut Vec<Step>) -> Made<()> {
    let heat = steps
        .iter()
        .rposition(|s| matches!(s, Step::Austenitize { .. }))
        .ok_or("heat")?;
    let dry = json!({ "kind": "clay", "temperature_c": 200.0, "hold_s": 3600.0 });
    steps.insert(heat, serde_json::from_value(dry)?);
    Ok(())
}

/// What chance brings.
struct Luck {
    chance: Chance,
    /// A stream of its own for what is seen beside hardness.
    eye: Chance,
    steel_bias: HashMap<&'static str, f64>,
}

/// A blade as it really is made.
struct RealBlade {
    /// Position among all blades.
    i: usize,
    name: &'static str,
    purpose: Purpose,
    days: i64,
    done: bool,
    careless: bool,
    steel: Steel,
    geometry: Blade,
    target: (f64, f64),
    steps: Vec<Step>,
    /// How it went into the fire, as the exchange file says it.
    made: Value,
    work: Workpiece,
    really: CameOut,
    operator: &'static str,
    habits: [f64; 2],
    /// What its steel and it itself differ from physics by, HRC.
    bias: f64,
    own: f64,
}

impl RealBlade {
    fn make(i: usize, (key, shape, name, purpose, days, ..): Row, luck: &mut Luck) -> Made<Self> {
        let steel = find(key)?;
        let done = i < FINISHED.len();
        let (length_mm, width_mm, spine_mm, edge_mm) = size(shape, &mut luck.chance);
        let geometry = Blade::parse(&BladeDraft {
            shape: Some(shape.id().to_owned()),
            length_mm: Some(length_mm),
            width_mm: Some(width_mm),
            spine_mm: Some(spine_mm),
            edge_mm: Some(edge_mm),
            grind: Some("flat".to_owned()),
        })?;
        // A target the steel can reach.
        let (mut low, mut high) = purpose.target_hrc();
        let top = steel.typical_tempered_hrc(Celsius::clamped(170.0)).floor();
        if high > top {
            (low, high) = (top - 2.0, top);
        }
        let plan = usual(&steel, &geometry, None, (low, high), STATIONS);
        let mut steps = plan.steps().to_vec();
        for step in &mut steps {
            // The smith tries a little around the book value.
            if matches!(key, "w1" | "w2") {
                water_first(step);
            }
            if let Step::Temper { temperature_c, .. } = step {
                let tried = 5.0 * (luck.chance.between(-2.4, 2.4)).round();
                *temperature_c = Celsius::clamped((temperature_c.value() + tried).max(150.0));
            }
        }
        let careless = done && CARELESS_DAYS.contains(&days);
        let bias = *luck
            .steel_bias
            .entry(key)
            .or_insert_with(|| STEEL_SPREAD_HRC * luck.chance.normal());
        let spread = if careless {
            CARELESS_SPREAD_HRC
        } else {
            BLADE_SPREAD_HRC
        };
        let (operator, way_s, habits) = HANDS[usize::from(i % 3 == 2)];
        let own = spread * luck.chance.normal();
        // Shallow steels got clay.
        let clayed = done && matches!(key, "w1" | "w2" | "1075");
        let made = if clayed {
            let band = json!({ "from_edge_mm": (0.4 * width_mm).round(), "thickness_mm": 2.0 });
            json!({ "clay": { "left": { "band": band } } })
        } else {
            json!({})
        };
        if clayed || i == CLAY_LAID_OUT {
            lay_clay(&mut steps)?;
        }
        let clay = made
            .get("clay")
            .map(|c| serde_json::from_value::<ClayDraft>(c.clone()))
            .transpose()?;
        let work = Ready::default().work(&geometry, clay.as_ref())?;
        let stored = Plan::stored(steps.clone());
        let really = truth().came_out(&work, &stored, &steel, Seconds::clamped(way_s));

        Ok(Self {
            i,
            name,
            purpose,
            days,
            done,
            careless,
            steel,
            geometry,
            target: (low, high),
            steps,
            made,
            work,
            really,
            operator,
            habits,
            bias,
            own,
        })
    }

    fn entered(&self) -> OffsetDateTime {
        NOW - Duration::days(self.days) - Duration::hours(3)
    }

    /// Its firing up to a moment, with what was read and found.
    fn firing(&self, minutes: i64, until: Until, luck: &mut Luck) -> Made<Value> {
        let all = actions(&self.steps);
        let last = if self.done {
            all.len() - 1
        } else {
            all.iter()
                .rposition(|b| until.is(b.doing))
                .ok_or("action")?
        };
        let start = if self.done {
            self.entered() + Duration::hours(26)
        } else {
            // Begin so that the last action was `minutes` ago.
            let (_, times) = confirm(&self.steps, NOW, last, &mut Chance(self.i as u64))?;
            let took = times.last().copied().unwrap_or(NOW) - NOW;
            NOW - Duration::minutes(minutes) - took
        };
        let (mut events, times) = confirm(&self.steps, start, last, &mut Chance(self.i as u64))?;
        if self.operator == EYE_OF && self.done {
            events = self.with_looks(events, &times)?;
        }
        let end = times.last().copied().unwrap_or(start);
        let quenched = all.iter().position(|b| b.doing == Doing::LookingOver {});
        let mut read = Vec::new();
        let mut found = Vec::new();
        let operator = json!({ "kind": "operator", "name": self.operator });
        events.insert(0, json!({ "at": at(start)?, "what": operator }));
        if let Some(cold) = quenched.and_then(|q| times.get(q)).filter(|_| self.done) {
            let predicted = outcomes(
                &self.work,
                &Plan::stored(self.steps.clone()),
                &self.steel,
                &BiasModels::default(),
                2.0,
                None,
            );
            let (predicted, _) = predicted.map_err(|_| "stopped")?;
            found = seen(
                &predicted,
                &self.geometry,
                self.habits,
                self.i == CRACKED,
                *cold,
                &mut luck.eye,
            )?;
        }
        if let Some(at_cold) = quenched.and_then(|q| times.get(q))
            && (luck.chance.uniform() < 0.5 || self.i == FINISHED.len())
        {
            read.push(json!({ "stage": "as_quenched", "tester_id": TESTER,
            "taken_at": at(*at_cold + Duration::minutes(12))?,
            "values_hrc": readings(self.really.as_quenched_hrc + self.bias + self.own, &mut luck.chance) }));
        }
        // The last finished blades are written down with care: where each value was taken, how straight
        // it is, how it was polished and tried.
        let careful = self.done && self.i + 3 >= FINISHED.len();
        if self.done {
            let note = if self.careless {
                "skin not taken off properly, in a hurry"
            } else {
                ""
            };
            let mut set = json!({ "stage": "tempered", "tester_id": TESTER, "note": note,
            "taken_at": at(end + Duration::hours(2))?,
            "values_hrc": readings(self.really.tempered_hrc + self.bias + self.own, &mut luck.chance) });
            if careful {
                set["taken"] = json!({ "places": places(&set["values_hrc"], &self.geometry) });
                found.extend(looked_at(&self.geometry, end)?);
            }
            read.push(set);
            events
                .push(json!({ "at": at(end + Duration::hours(3))?, "what": { "kind": "close" } }));
        }
        Ok(
            json!({ "started_at": at(start - Duration::minutes(5))?, "events": events, "readings": read,
        "findings": found, "made": self.made }),
        )
    }

    /// The same events with what the eye of its operator called the colour of each heat, once it was even.
    fn with_looks(&self, events: Vec<Value>, times: &[OffsetDateTime]) -> Made<Vec<Value>> {
        let mut chance = Chance(7000 + self.i as u64);
        let mut all = Vec::with_capacity(2 * events.len());
        for ((event, action), time) in events.into_iter().zip(actions(&self.steps)).zip(times) {
            all.push(event);
            let heat = match &self.steps[action.step] {
                Step::Normalize { temperature_c, .. } | Step::Austenitize { temperature_c, .. } => {
                    temperature_c.value()
                }
                _ => continue,
            };
            if action.mark != Mark::HoldBegins {
                continue;
            }
            let light = if chance.uniform() < 0.5 {
                Light::Dark
            } else {
                Light::Dim
            };
            let looks_c = heat - EYE_LOW_C + EYE_SCATTER_C * chance.normal();
            let by = Sighting {
                sign: Sign::Colour {
                    colour: Glow::nearest(looks_c, light),
                    light,
                },
                eye_id: Some(EYE),
            };
            let said =
                json!({ "kind": "say", "step": action.step, "by": by, "temperature_c": heat });
            all.push(json!({ "at": at(*time + Duration::seconds(40))?, "what": said }));
        }
        Ok(all)
    }

    /// It in the exchange file.
    fn entry(&self, first: &Value) -> Made<Value> {
        let mut blade = json!({
            "mark": format!("K-{}", 79 + self.i),
            "name": self.name,
            "steel": self.steel.key,
            "geometry": { "shape": self.geometry.shape.id(), "length_mm": self.geometry.length_mm, "width_mm": self.geometry.width_mm,
                "spine_mm": self.geometry.spine_mm, "edge_mm": self.geometry.edge_mm, "grind": "flat" },
            "purpose": self.purpose.id(),
            "target_low_hrc": self.target.0,
            "target_high_hrc": self.target.1,
            "note": "",
            "entered_at": at(self.entered())?,
            "plans": [first],
        });
        match blade["mark"].as_str() {
            // On the bench: one with its clay laid out, one looked over and made from a bar.
            _ if self.i == CLAY_LAID_OUT => {
                blade["ready"] = json!({ "checks": { "holes_drilled": true, "corners_chamfered": true,
                "mark_stamped": true, "degreased": true } });
                blade["clay"] = json!({
                    "clay": { "left": {
                        "band": { "from_edge_mm": 12.0, "thickness_mm": 2.0 },
                        "strokes": legs(self.geometry.length_mm),
                    } },
                    "wanted": [[8.0, 9.0], [60.0, 11.0], [110.0, 10.0], [150.0, 7.0]],
                });
            }
            Some("K-113") => {
                blade["bar_id"] = json!(O2_BAR);
                blade["ready"] = json!({
                "protection": "coating",
                "taper": [{ "x_mm": 0.0, "spine_mm": 2.8, "edge_mm": 0.9 },
                    { "x_mm": 80.0, "spine_mm": 2.3, "edge_mm": 0.7 }],
                "checks": { "holes_drilled": true, "scratches_out": false, "mark_stamped": true } });
            }
            _ => {}
        }
        if self.done {
            blade["finished_at"] = json!(at(self.entered() + Duration::days(4))?);
        }
        Ok(blade)
    }
}

fn stations() -> Made<Value> {
    Ok(json!([
        { "id": KILN, "kind": "kiln", "name": "Bench kiln", "capacity": { "blades": 4, "depth_mm": 450.0 }, "checks": [
            { "against": "thermometer", "points": [[780.0, 777.0], [830.0, 826.5]], "done_at": at(NOW + Duration::days(-400))? },
            { "against": "thermometer", "points": [[780.0, 776.5], [830.0, 825.5]], "done_at": at(NOW + Duration::days(-60))? },
        ] },
        { "id": FORGE, "kind": "forge", "name": "Gas forge" },
        { "id": OVEN, "kind": "oven", "name": "Kitchen oven",
          "capacity": { "blades": 6, "runs_alone": true, "switches_off": true }, "checks": [
            { "against": "thermometer", "points": [[150.0, 156.0], [200.0, 208.5], [250.0, 260.0]],
              "note": "Heavy tray, probe in the middle.", "done_at": at(NOW + Duration::days(-45))? },
        ] },
        { "id": TESTER, "kind": "tester", "name": "Bench tester", "checks": [
            { "against": "blocks", "points": [[46.0, 45.5], [60.8, 60.2]], "done_at": at(NOW + Duration::days(-90))? },
        ] },
        { "id": "0194f1a0-0000-7000-8000-0000000000c1", "kind": "tank", "name": "Long oil tank",
          "medium": "fast_oil", "litres": 20.0 },
        { "id": "0194f1a0-0000-7000-8000-0000000000c2", "kind": "tank", "name": "Water trough",
          "medium": "water", "litres": 60.0 },
        { "id": "0194f1a0-0000-7000-8000-0000000000c3", "kind": "plates", "name": "Aluminium plates" },
        { "id": "0194f1a0-0000-7000-8000-0000000000c4", "kind": "cold_box", "name": "Dry ice box" },
        { "id": "0194f1a0-0000-7000-8000-0000000000c5", "kind": "files", "name": "File set 40 to 65" },
        { "id": "0194f1a0-0000-7000-8000-0000000000c6", "kind": "magnet", "name": "Magnet on a rod" },
        { "id": "0194f1a0-0000-7000-8000-0000000000c7", "kind": "logger", "name": "Two-channel logger" },
        { "id": EYE, "kind": "eye", "name": EYE_OF },
    ]))
}

fn bars() -> Value {
    json!([
        { "id": O2_BAR, "name": "O2 flat 25", "steel": "O2", "condition": "spheroidized",
          "size": { "width_mm": 25.0, "thickness_mm": 3.0, "length_mm": 1000.0, "left_mm": 640.0 },
          "analysis": { "C": 0.89, "Si": 0.26, "Mn": 1.95, "Cr": 0.31, "V": 0.11 } },
        { "id": "0194f1a0-0000-7000-8000-0000000000b2", "name": "Quay pattern", "steel": "1084",
          "layers": [{ "role": "edge", "steel": "1084" }, { "role": "core", "steel": "15n20" }],
          "condition": "forged", "note": "Welded in spring, 120 layers.",
          "size": { "width_mm": 42.0, "thickness_mm": 6.0, "length_mm": 480.0, "left_mm": 480.0 } },
        { "id": "0194f1a0-0000-7000-8000-0000000000b3", "name": "Clad 1095", "steel": "1095",
          "layers": [{ "role": "edge", "steel": "1095", "thickness_mm": 1.6 }, { "role": "cladding", "steel": "1018" }],
          "condition": "annealed",
          "size": { "width_mm": 50.0, "thickness_mm": 5.0, "length_mm": 1200.0, "left_mm": 350.0 } },
        { "id": "0194f1a0-0000-7000-8000-0000000000b4", "name": "W2 round 20", "steel": "W2",
          "condition": "hot_rolled",
          "size": { "width_mm": 20.0, "thickness_mm": 20.0, "length_mm": 3000.0, "left_mm": 1850.0 } },
    ])
}

fn methods() -> Value {
    json!([{ "name": "Harbour way", "note": "Two heats are enough for stock removal; one long temper overnight.",
            "steps": [
                { "kind": "normalize", "temperature_c": 860.0, "hold_s": 120.0 },
                { "kind": "normalize", "temperature_c": 815.0, "hold_s": 120.0 },
                { "kind": "austenitize", "temperature_c": 815.0, "soak_s": 300.0, "station_id": KILN },
                { "kind": "quench", "stages": [{ "medium": "fast_oil", "bath_c": 50.0 }] },
                { "kind": "check", "look": "straight" },
                { "kind": "temper", "temperature_c": 205.0, "hold_s": 14400.0, "times": 1, "station_id": OVEN },
            ] }])
}

fn trials() -> Value {
    json!([
        { "name": "Mill file", "was": "file", "thickness_mm": 4.0, "entries": [
            { "kind": "first", "bath": "oil", "file": "bites", "by": { "sign": "past_magnet" } },
            { "kind": "first", "bath": "water", "file": "skates", "by": { "sign": "past_magnet" } },
        ] },
        { "name": "Harrow tine", "was": "coil_spring", "thickness_mm": 5.0, "entries": [
            { "kind": "first", "bath": "oil", "file": "skates", "skated_hrc": 60.0, "bit_hrc": 65.0 },
            { "kind": "rung", "temperature_c": 770.0, "file": "bites", "grain": 1 },
            { "kind": "rung", "temperature_c": 790.0, "file": "skates", "grain": 1 },
        ] },
    ])
}

/// Coupons of the steel that is made most of, through five tempers.
fn ladders(bias: f64) -> Made<Value> {
    let steel = find(LADDER_OF)?;
    let mut chance = Chance(20_261_130);
    let mut ladder = Ladder::usual(Along::Tempers, &steel);
    ladder.treatment.stations = STATIONS;
    ladder.treatment.tester = Some(TESTER);
    ladder.treatment.medium = Medium::FastOil;
    let coupon = ladder.coupon().ok_or("a coupon is a plate")?;
    for i in 0..ladder.rungs.len() {
        let plan = ladder.plan(&ladder.rungs[i]);
        let really = truth().came_out(&coupon, &plan, &steel, Seconds::clamped(HANDS[0].1));
        let own = BLADE_SPREAD_HRC * chance.normal();
        ladder.rungs[i].values_hrc = readings(really.tempered_hrc + bias + own, &mut chance);
    }
    Ok(json!([{
        "name": "Tempers of 80CrV2",
        "steel": LADDER_OF,
        "along": ladder.along,
        "treatment": ladder.treatment,
        "rungs": ladder.rungs,
        "began_at": at(NOW - Duration::days(96))?,
    }]))
}

fn main() -> Made<()> {
    let mut luck = Luck {
        chance: Chance(20_261_125),
        eye: Chance(7_041_126),
        steel_bias: HashMap::new(),
    };
    let mut blades = Vec::new();
    let finished = FINISHED
        .iter()
        .map(|f| (f.0, f.1, f.2, f.3, f.4, 0, Some(Until::Closed)));
    for (i, row) in finished.chain(IN_WORK).enumerate() {
        let blade = RealBlade::make(i, row, &mut luck)?;
        let mut first = json!({ "steps": blade.steps });
        if let Some(until) = row.6 {
            first["firing"] = blade.firing(row.5, until, &mut luck)?;
        }
        blades.push(blade.entry(&first)?);
    }
    let now = at(NOW)?;
    let on_day = |mark| json!({ "mark": mark, "not_before": now });
    let day = ["K-109", "K-110", "K-111", "K-114", "K-113", "K-112"].map(on_day);
    let file = json!({
        "format": "vatten-exchange",
        "version": 1,
        "exported_at": at(NOW)?,
        "workshop": "Brinholm forge",
        "stations": stations()?,
        "bars": bars(),
        "methods": methods(),
        "trials": trials(),
        "ladders": ladders(luck.steel_bias.get(LADDER_OF).copied().unwrap_or(0.0))?,
        "steels": [{ "id": SPRING, "name": "Old leaf spring", "analysis": serde_json::to_value(spring_analysis())? }],
        "hours": {
            "shifts": [
                { "name": HANDS[0].0, "days": [1, 2, 3, 4, 5, 6, 7], "hours": [360, 900], "breaks": [[690, 720]] },
                { "name": HANDS[1].0, "days": [1, 2, 3, 4, 5, 6, 7], "hours": [600, 1200], "breaks": [[780, 810]] },
            ],
            "temper_within_s": 14400,
        },
        "day": day,
        "blades": blades,
    });
    println!("{}", serde_json::to_string_pretty(&file)?);
    Ok(())
}
