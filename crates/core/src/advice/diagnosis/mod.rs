//! It did not come out as it should: what could be the cause on this blade, how likely each is by its
//! records and by the engine, the cheapest check that tells it from the others, and what would have avoided
//! it.

mod edge;
mod line;
mod shape;
mod soft;

use crate::learning::bias_models::BiasModels;
use crate::prediction::outcome::Outcomes;
use crate::prediction::predict::Hardness;
use crate::prediction::subject::Subject;
use crate::process::change::{Change, StepField};
use crate::process::plan::Plan;
use crate::process::step::Step;
use crate::quantity::interval::Interval;
use crate::quantity::units::Kelvins;
use crate::record::finding::{Bracket, Finding};
use crate::record::reading::When;
use serde::{Deserialize, Serialize};

/// What went wrong.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Hash,
    Serialize,
    Deserialize,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Symptom {
    /// Softer than it should be.
    Soft,
    /// Out of line.
    Bent,
    /// Cracked.
    Cracked,
    /// The hamon is dull.
    DullLine,
    /// The hamon wanders, or broke off.
    WanderingLine,
    /// The edge chips.
    Chips,
    /// The edge rolls.
    Rolls,
}

/// Readings of one stage, as they were read.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Read {
    /// When.
    pub when: When,
    /// Mean, HRC, by the check of the tester.
    pub mean_hrc: f64,
    /// How many values.
    pub count: usize,
    /// The blade was still warm.
    pub warm: bool,
    /// The skin was still on.
    pub skin_on: bool,
}

/// A hold as a thermocouple saw it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Seen {
    /// Planned, °C.
    pub planned_c: f64,
    /// Real: the mean at heat, or what a temper amounts to, °C.
    pub real_c: f64,
    /// Real time over planned time.
    pub time_share: f64,
}

/// A blade that did not come out as it should.
#[derive(Debug, Clone)]
pub struct Case<'a> {
    /// The blade with the steps as they were really done.
    pub subject: Subject<'a>,
    /// The steps as they were planned.
    pub planned: &'a Plan,
    /// What was predicted of them before anything was read: as quenched and tempered, HRC. The records of
    /// today know of this blade's own readings already.
    pub predicted: Hardness,
    /// The section was predicted to harden through.
    pub hardens_through: bool,
    /// What was learned of everything but hardness.
    pub biases: &'a BiasModels,
    /// What was predicted of the whole blade when it was fired.
    pub outcomes: Option<&'a Outcomes>,
    /// Wanted hardness, HRC.
    pub target: (f64, f64),
    /// What was read.
    pub readings: Vec<Read>,
    /// What was found.
    pub findings: Vec<&'a Finding>,
    /// What a thermocouple saw of the hardening heat.
    pub heat: Option<Seen>,
    /// And of the tempers.
    pub temper: Option<Seen>,
    /// The tester was checked.
    pub tester_checked: bool,
}

/// What the prediction of the same firing said that a diagnosis contradicts: one of the two is wrong.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "said", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Contradiction {
    /// It would be hard enough.
    HardEnough {
        /// Hardness that was predicted at the stage that was read last, HRC.
        predicted: Interval,
        /// The section hardens through.
        through: bool,
    },
    /// It would hardly bend.
    Straight {
        /// Chance of a bend beyond what can be left, 0 to 1.
        probability: f64,
    },
    /// It would hardly crack.
    Sound {
        /// Chance of a crack, 0 to 1.
        probability: f64,
    },
    /// There would be no line at all.
    NoLine,
}

/// What could be the cause, and what the prediction had to say of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Diagnosis {
    /// What the prediction of this firing said otherwise.
    pub contradicts: Option<Contradiction>,
    /// The causes, most likely first. Their chances add up to less than one when some were not worth
    /// telling.
    pub causes: Vec<Cause>,
}

/// A possible cause.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Cause {
    /// What it is.
    pub cause: Culprit,
    /// How likely among all that could be, 0 to 1.
    pub chance: f64,
    /// What speaks for it and against it on this blade.
    pub why: Vec<Evidence>,
    /// What would have avoided it as a change of the plan, where it is one.
    pub fix: Option<Change>,
}

/// What can be behind a symptom.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Culprit {
    /// It is harder than this work wants.
    TooHard,
    /// Its grain is coarse.
    CoarseGrain,
    /// Tempered where carbon steel is brittle.
    BrittleTemper,
    /// The edge is too thin, or its angle too small, for this work.
    ThinChips,
    /// The temper did not do its work: too short, or an oven that ran cool.
    NoTemper,
    /// Not the blade: a burr broke off.
    BurrBroke,
    /// It is softer than this work wants.
    TooSoft,
    /// The edge was burned at the belt.
    BurnedEdge,
    /// The edge is decarburized.
    DecarburizedEdge,
    /// The edge is too thin, or its angle too small, for this work.
    ThinRolls,
    /// Soft austenite is left between the needles.
    SoftAustenite,
    /// Not the blade: a burr folded over.
    BurrFolded,
    /// It is there, but not polished out.
    NotPolished,
    /// This steel hardens too deep for a clear line.
    DeepSteel,
    /// From hard to soft takes too long a way: the band is wide.
    WideBand,
    /// It was too hot: the line runs high and soft.
    TooHot,
    /// The decarburized skin still lies over it.
    SkinOverLine,
    /// Etched too long: the hard part went grey as well.
    OverEtched,
    /// Clay came off in the fire or in the bath.
    ClayCameOff,
    /// The clay's border is not where it was meant.
    ClayBorder,
    /// Steam clung to it: cold spots in the bath.
    Steam,
    /// It was hotter in one place than in another.
    HotSpot,
    /// The blade's own section moves it: thin places harden further up.
    SectionMovesLine,
    /// Uneven structure from forging.
    ForgedIn,
    /// One face cooled faster: it went in at a slant, or steam clung to it.
    UnevenCooling,
    /// One face lost more carbon in the fire.
    UnevenSkin,
    /// It leaned, or was swept sideways, while it turned hard.
    Leaned,
    /// The clay was not alike on both faces.
    UnevenClay,
    /// The bevels are not alike left and right.
    UnevenBevels,
    /// Stresses from forging and grinding came free in the heat.
    Stresses,
    /// It was not evenly hot, or sagged under its own weight.
    UnevenHeat,
    /// It curved up or down, as its section makes it.
    TowardsTheSpine,
    /// It was straight enough until it stiffened unwatched.
    NoStraightening,
    /// The bath was too hard for this steel.
    WrongMedium,
    /// It cooled fast to the end, where martensite forms.
    SevereToTheEnd,
    /// It began at a scratch, a stamp, a hole or a sharp corner.
    StressRaiser,
    /// It was too hot: coarse grain cracks along its boundaries.
    CrackedTooHot,
    /// It waited hard and untempered.
    WaitedUntempered,
    /// Thin edge beside a thick spine: they shrink at different times.
    ThinEdgeThickSpine,
    /// This steel makes brittle martensite late and cold.
    LateMartensite,
    /// It was quenched with the stresses and the grain of forging in it.
    NotNormalized,
    /// It was quenched again without normalizing.
    Requenched,
    /// A skin without carbon turned first and was drawn apart.
    SkinDrawn,
    /// Clay let go in the bath: bare steel beside steel under clay.
    ClayLetGo,
    /// The bar had a flaw: a cold shut, a seam, a weld that did not take.
    Flaw,
    /// The decarburized skin was read, not the steel under it.
    SkinRead,
    /// It was still warm.
    ReadWarm,
    /// The tester reads low.
    TesterLow,
    /// The fire was cooler than it was set.
    TooCool,
    /// It was not soaked through.
    ShortSoak,
    /// The bath took its heat too slowly: cold or thick oil, a slow hand, too little of it.
    SlowQuench,
    /// The oven ran hotter than it was set.
    OverTempered,
    /// It was hotter than its window: soft austenite was left over.
    AusteniteLeft,
    /// The bar is leaner than its name says.
    NotThisSteel,
    /// It was burned at the belt.
    Burned,
    /// Nothing was wrong: blades scatter.
    Scatter,
    /// It sat in the oven much longer than planned.
    LongTemper,
}

/// What speaks for a cause or against it on a blade.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Evidence {
    /// It was read harder than wanted.
    ReadOver {
        /// Mean of what was read, HRC.
        read_hrc: f64,
        /// Most that is wanted, HRC.
        most_hrc: f64,
    },
    /// It was read softer than wanted.
    ReadUnder {
        /// Mean of what was read, HRC.
        read_hrc: f64,
        /// Least that is wanted, HRC.
        least_hrc: f64,
    },
    /// It was read inside what was wanted.
    InsideWanted {},
    /// What would have been read, or would be, were this the cause.
    WouldBe {
        /// Hardness, HRC.
        hrc: f64,
        /// At which stage.
        when: When,
        /// It was read then; else only filed or punched.
        read: bool,
    },
    /// Nothing was read yet.
    NothingRead {},
    /// Grain by the engine.
    Grain {
        /// ASTM grain size number.
        astm: f64,
    },
    /// Grain by the engine, and it is fine.
    FineGrain {
        /// ASTM grain size number.
        astm: f64,
    },
    /// A coupon broke coarse.
    CouponCoarse {},
    /// The temper lies in the brittle range.
    InBrittleRange {
        /// The temper, °C.
        temper_c: f64,
        /// Lower end of the range, °C.
        low_c: f64,
        /// Upper end of the range, °C.
        high_c: f64,
    },
    /// How thick it is behind the edge.
    BehindEdge {
        /// Thickness, mm.
        edge_mm: f64,
    },
    /// The edge lost carbon in the fire.
    EdgeLostCarbon {
        /// The edge as it went in, mm.
        edge_mm: f64,
        /// Skin that lost carbon on each side, mm.
        skin_mm: f64,
    },
    /// Skin that lost carbon.
    SkinLost {
        /// Its depth, mm.
        skin_mm: f64,
    },
    /// The skin reads softer than the steel under it.
    SkinReadsSofter {
        /// Its depth, mm.
        skin_mm: f64,
        /// By about, HRC.
        skin_hrc: f64,
    },
    /// Austenite left at room temperature by the engine.
    AusteniteAtRoom {
        /// Percent of the structure.
        percent: f64,
    },
    /// Manganese and chromium make the steel harden deep.
    DeepHardening {
        /// Both together, percent by weight.
        mn_cr_percent: f64,
    },
    /// The engine says that the band is wide.
    WideBand {
        /// From hard to soft, mm.
        band_mm: f64,
    },
    /// The engine says that the band is narrow.
    NarrowBand {
        /// From hard to soft, mm.
        band_mm: f64,
    },
    /// It was hotter than the middle of its window.
    OverWindow {
        /// By so much, K.
        over_k: f64,
    },
    /// What this cause usually does to the blade in this shop.
    UsuallyBends {
        /// Sag, mm, one standard deviation.
        mm: f64,
    },
    /// The bevels differ.
    BevelsDiffer {
        /// By so much, percent of thickness.
        percent: f64,
        /// Sag from it, mm.
        bend_mm: f64,
    },
    /// What the engine says of the curve in its own plane.
    InPlane {
        /// Sag; positive towards the spine, mm.
        sori_mm: f64,
    },
    /// How much likelier it makes a crack.
    TimesAsLikely {
        /// Factor on the odds.
        odds: f64,
    },
    /// It was not tempered.
    NotTempered {},
    /// The thermocouple saw a cooler temper.
    SawCoolerTemper {},
    /// The thermocouple saw no hotter temper.
    SawNoHotterTemper {},
    /// The thermocouple saw a hotter temper.
    SawHotterTemper {},
    /// The thermocouple saw it at heat.
    SawAtHeat {},
    /// The thermocouple saw it cooler than planned.
    SawCooler {},
    /// The thermocouple saw no hotter fire.
    SawNoHotterFire {},
    /// The thermocouple saw the whole soak.
    SawWholeSoak {},
    /// The thermocouple saw much less than the planned soak.
    SawShortSoak {},
    /// A colour from the belt was written down.
    BeltColour {},
    /// It was not at the belt yet.
    NotAtBelt {},
    /// No polishing was written down.
    NoPolish {},
    /// It was polished and etched.
    PolishedAndEtched {},
    /// No etching was written down.
    NoEtch {},
    /// It was inside its window.
    InsideWindow {},
    /// There was no clay.
    NoClay {},
    /// The two faces were painted differently.
    FacesPaintedDifferently {},
    /// It was laid unevenly as painted.
    PaintedUnevenly {},
    /// The bath was moved as usual, no more.
    MovedAsUsual {},
    /// It was not normalized.
    NotNormalized {},
    /// Neither normalized nor stress relieved.
    NotRelieved {},
    /// It was relieved before.
    Relieved {},
    /// A forge heats from one side.
    ForgeHeatsOneSide {},
    /// A forge shows no number: heat is judged by eye.
    ForgeByEye {},
    /// It was straightened warm.
    StraightenedWarm {},
    /// It was read with the skin on.
    ReadWithSkin {},
    /// It was read while warm.
    ReadWarm {},
    /// The tester was checked against blocks.
    TesterChecked {},
    /// The kiln was checked about there.
    KilnChecked {},
    /// The oven was checked about there.
    OvenChecked {},
    /// The bar came with an analysis.
    BarHasAnalysis {},
    /// Its steel is known by a trial only.
    SteelByTrial {},
}

/// A cause that is weighed.
struct Suspect {
    cause: Culprit,
    /// Odds against the others, at least 0.
    weight: f64,
    why: Vec<Evidence>,
    fix: Option<Change>,
}

impl Suspect {
    const fn new(cause: Culprit, weight: f64) -> Self {
        Self {
            cause,
            weight,
            why: Vec::new(),
            fix: None,
        }
    }

    /// Takes evidence: how many times as likely it makes this, and what it is.
    fn given(mut self, evidence: bool, times: f64, why: Evidence) -> Self {
        if evidence {
            self.weight *= times;
            self.why.push(why);
        }
        self
    }

    /// What the engine says of it, which makes it neither likelier nor less likely by itself.
    fn says(mut self, what: Evidence) -> Self {
        self.why.push(what);
        self
    }

    fn fixed(mut self, fix: Option<Change>) -> Self {
        self.fix = fix;
        self
    }
}

/// Less likely than this is not worth a line.
const WORTH: f64 = 0.02;
/// Most causes that are told.
const MOST: usize = 6;

/// A chance below this was as good as none.
const HARDLY: f64 = 0.05;

/// What the prediction said that this symptom contradicts.
fn contradiction(case: &Case<'_>, symptom: Symptom) -> Option<Contradiction> {
    let whole = case.outcomes;
    match symptom {
        Symptom::Soft | Symptom::Rolls => {
            // Held against the wanted window after the temper, against itself before.
            let tempered = case.read(When::Tempered).is_some()
                || case.has_brackets(When::Tempered)
                || case.read(When::AsQuenched).is_none();
            let predicted = if tempered {
                case.predicted.tempered
            } else {
                case.predicted.as_quenched
            };
            let enough = !tempered || predicted.middle >= case.target.0;
            enough.then_some(Contradiction::HardEnough {
                predicted,
                through: case.hardens_through,
            })
        }
        Symptom::Bent => whole
            .map(|o| o.bend.side_over_tolerance_probability)
            .filter(|p| *p < HARDLY)
            .map(|probability| Contradiction::Straight { probability }),
        Symptom::Cracked => whole
            .map(|o| o.crack.probability)
            .filter(|p| *p < HARDLY)
            .map(|probability| Contradiction::Sound { probability }),
        Symptom::DullLine | Symptom::WanderingLine => whole
            .is_some_and(|o| o.hamon.line().is_none())
            .then_some(Contradiction::NoLine),
        Symptom::Chips => None,
    }
}

/// The causes of a symptom, and what the prediction of the same firing said otherwise.
#[must_use]
pub fn diagnose(case: &Case<'_>, symptom: Symptom) -> Diagnosis {
    let suspects = match symptom {
        Symptom::Soft => soft::suspects(case),
        Symptom::Bent => shape::bent(case),
        Symptom::Cracked => shape::cracked(case),
        Symptom::DullLine => line::dull(case),
        Symptom::WanderingLine => line::wandering(case),
        Symptom::Chips => edge::chips(case),
        Symptom::Rolls => edge::rolls(case),
    };
    let all: f64 = suspects.iter().map(|s| s.weight).sum();
    let mut causes: Vec<Cause> = suspects
        .into_iter()
        .map(|s| Cause {
            chance: if all > 0.0 { s.weight / all } else { 0.0 },
            cause: s.cause,
            why: s.why,
            fix: s.fix,
        })
        .filter(|c| c.chance >= WORTH)
        .collect();
    causes.sort_by(|a, b| b.chance.total_cmp(&a.chance));
    causes.truncate(MOST);
    Diagnosis {
        contradicts: contradiction(case, symptom),
        causes,
    }
}

/// A step at another temperature, °C, as its station will show it: what the steel shall really see is
/// turned back by the check of the station.
fn at_heat(case: &Case<'_>, step: usize, really_c: f64) -> Option<Change> {
    let plan = case.subject.plan;
    let (Step::Austenitize { station_id, .. } | Step::Temper { station_id, .. }) =
        plan.steps().get(step)?
    else {
        return None;
    };
    let value = plan.corrections().shown(*station_id, really_c).round();
    let field = StepField::TemperatureC;
    Some(Change::set(plan.steps(), step, field, value))
}

/// Position and real temperature, °C, of the last step that `of` picks.
fn last_heat(case: &Case<'_>, is_heat: impl Fn(&Step) -> bool) -> Option<(usize, f64)> {
    let steps = case.subject.plan.real_steps();
    let at = steps.iter().rposition(is_heat)?;
    match &steps[at] {
        Step::Austenitize { temperature_c, .. } | Step::Temper { temperature_c, .. } => {
            Some((at, temperature_c.value()))
        }
        _ => None,
    }
}

/// The hardening heat at a real temperature, °C.
fn austenitize_at(case: &Case<'_>, really_c: f64) -> Option<Change> {
    let (at, _) = last_heat(case, |s| matches!(s, Step::Austenitize { .. }))?;
    at_heat(case, at, really_c)
}

/// The last temper so much hotter.
fn temper_hotter(case: &Case<'_>, by: Kelvins) -> Option<Change> {
    let (at, now) = last_heat(case, |s| matches!(s, Step::Temper { .. }))?;
    at_heat(case, at, now + by.value())
}

impl Case<'_> {
    /// Mean of what was read at a stage, HRC, reliable readings before others.
    fn read(&self, when: When) -> Option<f64> {
        let all = || self.readings.iter().filter(move |r| r.when == when);
        let sound = all().filter(|r| !r.warm && !r.skin_on);
        let mean = |those: Vec<&Read>| {
            let count: usize = those.iter().map(|r| r.count).sum();
            let sum: f64 = those.iter().map(|r| r.mean_hrc * r.count as f64).sum();
            (count > 0).then(|| sum / count as f64)
        };
        mean(sound.collect()).or_else(|| mean(all().collect()))
    }

    /// What files and punches said.
    fn all_brackets(&self) -> impl Iterator<Item = Bracket> + '_ {
        self.findings.iter().filter_map(|f| f.bracket())
    }

    /// What files and punches said at a stage, reliable ones before others.
    fn brackets(&self, when: When) -> Vec<Bracket> {
        let all = || self.all_brackets().filter(move |b| b.stage == when);
        let sound: Vec<Bracket> = all().filter(Bracket::counts).collect();
        if sound.is_empty() {
            all().collect()
        } else {
            sound
        }
    }

    fn has_brackets(&self, when: When) -> bool {
        self.all_brackets().any(|b| b.stage == when)
    }

    fn found(&self, good: impl Fn(&Finding) -> bool) -> bool {
        self.findings.iter().any(|f| good(f))
    }
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;
    use crate::learning::Model;
    use crate::material::steel::Steel;
    use crate::prediction::outcome::outcomes;
    use crate::prediction::predict::{StationNames, predict};
    use crate::process::workpiece::Workpiece;
    use crate::simulation::physics::tests::{blade, plan};
    use crate::testing::code;
    use rstest::rstest;

    /// A blade of 1084 in fast oil, tempered at 205 °C; physics says about 62 HRC.
    pub(crate) struct Bench {
        pub plan: Plan,
        pub work: Workpiece,
        pub steel: Steel,
        pub biases: BiasModels,
        pub predicted: Hardness,
        pub outcomes: Outcomes,
        pub findings: Vec<Finding>,
    }

    impl Bench {
        pub(crate) fn new(steel: &str, medium: &str) -> Self {
            let steel = Steel::built_in(steel).unwrap().clone();
            let plan = plan(&format!(
                r#"[{{"kind":"normalize","temperature_c":860,"times":3}},
                    {{"kind":"austenitize","temperature_c":{},"soak_s":300}},
                    {{"kind":"quench","stages":[{{"medium":"{medium}"}}]}},
                    {{"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}}]"#,
                steel.austenitize.nominal.value()
            ));
            let work = Workpiece::plain(&blade());
            let biases = BiasModels::default();
            let subject = Subject {
                plan: &plan,
                steel: &steel,
                work: &work,
                tester: None,
                bar: None,
                operator: None,
            };
            let names = StationNames::new();
            let predicted = predict(subject, &Model::default(), &names, None).hardness;
            let outcomes = outcomes(&work, &plan, &steel, &biases, 3.0, None)
                .unwrap()
                .0;
            Self {
                plan,
                work,
                steel,
                biases,
                predicted,
                outcomes,
                findings: Vec::new(),
            }
        }

        pub(crate) fn case(&self) -> Case<'_> {
            Case {
                subject: Subject {
                    plan: &self.plan,
                    steel: &self.steel,
                    work: &self.work,
                    tester: None,
                    bar: None,
                    operator: None,
                },
                planned: &self.plan,
                predicted: self.predicted,
                hardens_through: true,
                biases: &self.biases,
                outcomes: Some(&self.outcomes),
                target: (60.0, 62.0),
                readings: Vec::new(),
                findings: self.findings.iter().collect(),
                heat: None,
                temper: None,
                tester_checked: false,
            }
        }
    }

    pub(crate) fn read(when: When, mean_hrc: f64) -> Read {
        Read {
            when,
            mean_hrc,
            count: 3,
            warm: false,
            skin_on: false,
        }
    }

    #[rstest]
    #[case(Symptom::Soft)]
    #[case(Symptom::Bent)]
    #[case(Symptom::Cracked)]
    #[case(Symptom::DullLine)]
    #[case(Symptom::WanderingLine)]
    #[case(Symptom::Chips)]
    #[case(Symptom::Rolls)]
    fn every_symptom_has_ranked_causes_each_of_them_once(#[case] symptom: Symptom) {
        let bench = Bench::new("w2", "water");
        let causes = diagnose(&bench.case(), symptom).causes;
        assert!(causes.len() >= 3, "{causes:?}");
        assert!(causes.windows(2).all(|p| p[0].chance >= p[1].chance));
        assert!(causes.iter().map(|c| c.chance).sum::<f64>() <= 1.0 + 1e-9);
        let named: std::collections::HashSet<_> = causes.iter().map(|c| code(&c.cause)).collect();
        assert_eq!(named.len(), causes.len(), "{causes:?}");
    }

    #[test]
    fn a_diagnosis_says_what_the_prediction_said_otherwise() {
        let bench = Bench::new("1084", "fast_oil");
        let said = |case: &Case<'_>, symptom| diagnose(case, symptom).contradicts;
        let mut case = bench.case();
        case.readings = vec![read(When::Tempered, 55.0)];
        let Some(Contradiction::HardEnough { predicted, .. }) = said(&case, Symptom::Soft) else {
            panic!()
        };
        assert_eq!(predicted, bench.predicted.tempered);
        // It was predicted softer than wanted: nothing is contradicted.
        case.target = (65.0, 67.0);
        assert_eq!(said(&case, Symptom::Soft), None);
        assert!(matches!(
            said(&case, Symptom::Cracked),
            Some(Contradiction::Sound { .. })
        ));
        assert_eq!(said(&case, Symptom::Chips), None);
        let through = Bench::new("o1", "medium_oil");
        assert_eq!(
            said(&through.case(), Symptom::DullLine),
            Some(Contradiction::NoLine)
        );
    }
}
