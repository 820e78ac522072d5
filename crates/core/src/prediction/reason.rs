//! Why an outcome was predicted as it was: facts with their quantities. Words are made where they are read.

use crate::learning::kernel::SpreadPart;
use crate::material::dissolution::Structure;
use crate::material::medium::Medium;
use crate::material::salvage::Salvage;
use crate::process::furnace::{Furnace, Soak};
use crate::process::sighting::{Light, Sign};
use crate::process::step::Part;
use crate::process::temper_colour::TemperColour;
use crate::simulation::crack::Cause;
use crate::simulation::hamon::NoLine;
use crate::simulation::warp::driver::Driver;
use serde::{Deserialize, Serialize};

/// One thing that moved a prediction.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Reason {
    /// The outcome it belongs to.
    pub about: About,
    /// What it is.
    #[serde(flatten)]
    pub why: Why,
    /// How far it moved the outcome, HRC, where that is a number.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub effect_hrc: Option<f64>,
    /// It comes from the shop's own records, not from physics.
    #[serde(default)]
    pub learned: bool,
}

/// The outcome that a reason speaks of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum About {
    /// Hardness straight from the quench, sub-zero included.
    AsQuenched,
    /// Hardness after the last temper.
    Tempered,
    /// Austenite left over.
    RetainedAustenite,
    /// Critical temperatures.
    CriticalTemperatures,
    /// Carbon in solution at the quench.
    DissolvedCarbon,
    /// The temper for a wanted hardness.
    TemperForTarget,
    /// How much of the middle hardens.
    Middle,
    /// The hamon.
    Hamon,
    /// Bend towards spine or edge, and sideways.
    Bend,
    /// Cracking.
    Crack,
    /// Grain.
    Grain,
    /// Carbon lost from the skin.
    Decarburization,
    /// When the soak counts and how long.
    Soak,
    /// How warm the bath gets.
    Bath,
}

/// Where critical temperatures come from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum LevelSource {
    /// The table of steels; the martensite start by formula from what is dissolved.
    Table,
    /// Formulas, from the analysis.
    #[serde(alias = "andrews")]
    Formula,
    /// Formulas for the carbon and manganese that a trial says it behaves as.
    Trial,
    /// Formulas for the likeliest analysis of a steel without a paper.
    Likeliest,
    /// Formulas outside the range they were made for.
    OutOfRange,
}

/// How fresh and how near the last check of a station is.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CheckReach {
    /// Nearest temperature that it was checked at, °C as shown; none when that is here.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nearest_c: Option<f64>,
    /// Its age, days; none when it is fresh.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub age_days: Option<f64>,
    /// How much it tells of this heat, 0 to 1.
    pub tells: f64,
}

/// What moved a prediction, or what it rests on. Differences of temperature are in K.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Why {
    /// Where the critical temperatures come from.
    Levels {
        /// From here.
        source: LevelSource,
    },
    /// How much carbon went into solution.
    Dissolved {
        /// Share of what this heat can hold, 0 to 1.
        share: f64,
        /// The structure before the heat.
        structure: Structure,
    },
    /// Where martensite starts.
    MartensiteStart {
        /// Carbon in solution, percent by weight.
        carbon_percent: f64,
        /// Martensite start, °C.
        start_c: f64,
    },
    /// The steel is known by its analysis only.
    KnownByAnalysis {
        /// A steel of the table is like it.
        near: bool,
    },
    /// Each blade warms the bath for the next.
    BathWarms {
        /// What is in it.
        medium: Medium,
        /// How much, l.
        litres: f64,
        /// As warm as it is planned, °C.
        bath_c: f64,
        /// After the first blade, °C.
        first_c: f64,
        /// After the fifth, °C.
        fifth_c: f64,
        /// After so many it is hotter than it is worked with.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        too_hot_after: Option<u32>,
    },
    /// The steel is known by a coupon trial only.
    KnownByTrial {},
    /// The steel is known by what it was, and by what was tried of it.
    KnownBySalvage {
        /// What it was.
        was: Salvage,
        /// A coupon or a blade of it was tried.
        tried: bool,
        /// Least carbon it may have, percent by weight.
        low_percent: f64,
        /// Most carbon it may have, percent by weight.
        high_percent: f64,
    },
    /// What martensite of this carbon is, with the carbides in it and no austenite.
    MartensiteOf {
        /// Carbon in solution, percent by weight.
        carbon_percent: f64,
        /// Carbide, percent by weight.
        carbide_percent: f64,
        /// Its hardness, HRC.
        hrc: f64,
    },
    /// The tempers turn austenite.
    TemperTurnsAustenite {
        /// Percent of the structure.
        percent: f64,
    },
    /// Austenite left over.
    AusteniteLeft {
        /// Percent of the structure.
        percent: f64,
    },
    /// Sub-zero turns austenite.
    ColdTurns {
        /// Percent of the structure.
        percent: f64,
    },
    /// What sub-zero straight after the quench would leave.
    ColdWouldLeave {
        /// The cold, °C.
        cold_c: f64,
        /// Austenite left then, percent of the structure.
        percent: f64,
    },
    /// Not all is martensite where hardness is read.
    PartlyMartensite {
        /// Martensite there, percent.
        percent: f64,
    },
    /// What the temper takes from the hardness as quenched.
    TemperTakes {},
    /// The shop has no results yet.
    NoResults {},
    /// What the shop's results have in common.
    ShopResults {},
    /// The tester reads high or low.
    TesterReads {
        /// Its name, when known.
        station: Option<String>,
        /// High; else low.
        high: bool,
    },
    /// The shop's results on this steel.
    SteelResults {
        /// How many.
        results: usize,
    },
    /// The shop's results from this bar.
    BarResults {},
    /// The hardening heat is judged by eye or magnet.
    HeatByEye {
        /// By what.
        sign: Sign,
        /// Whose eye.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        eye: Option<String>,
        /// Looks beside a thermocouple that it is known from.
        looks: usize,
        /// How hot it then is, °C.
        middle_c: f64,
        /// One standard deviation, °C.
        deviation_c: f64,
    },
    /// The temper is judged by the colour that it leaves.
    TemperByColour {
        /// The colour.
        colour: TemperColour,
        /// The light it is seen in.
        light: Light,
        /// How hot it then is, °C.
        middle_c: f64,
        /// One standard deviation, °C.
        deviation_c: f64,
        /// What that is of hardness, HRC.
        hrc: f64,
    },
    /// The line lies higher or lower with a heat that is not sure.
    LineOverHeat {
        /// How far the heat is known, one standard deviation, °C.
        deviation_c: f64,
        /// What that is of its height, one standard deviation, mm.
        mm: f64,
    },
    /// The grain grows with a heat that is not sure.
    GrainOverHeat {
        /// How far the heat is known, one standard deviation, °C.
        deviation_c: f64,
        /// ASTM number of the hottest one in twenty.
        coarsest_astm: f64,
    },
    /// The chance of a crack is the mean over a heat that is not sure.
    CrackOverHeat {
        /// How far the heat is known, one standard deviation, °C.
        deviation_c: f64,
        /// What it would be at the heat that is planned, 0 to 1.
        at_planned: f64,
    },
    /// A fire that is less even, and less sure, than a kiln.
    FireUneven {
        /// Its kind.
        fire: Furnace,
        /// How far a blade in it is from what is set, one standard deviation, °C; none where an eye judges it.
        scatter_c: f64,
        /// How much hotter the tip is than the middle, °C.
        tip_hotter_c: f64,
    },
    /// Blades whose heat this eye judged came out as if it saw too low or high.
    EyeRuns {
        /// Whose.
        eye: Option<String>,
        /// Hotter than it says, K.
        by_k: f64,
    },
    /// Results say that the fire runs hotter or cooler than set.
    KilnRuns {
        /// Its name, when known.
        station: Option<String>,
        /// Hotter by so much; negative: cooler, K.
        by_k: f64,
    },
    /// Results say that the oven runs hotter or cooler than set.
    OvenRuns {
        /// Its name, when known.
        station: Option<String>,
        /// Hotter by so much; negative: cooler, K.
        by_k: f64,
    },
    /// The shop's results in this medium.
    TankResults {
        /// The medium.
        medium: Medium,
        /// It takes heat faster than its kind by this share; negative: slower. None where that is not seen.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        faster_share: Option<f64>,
    },
    /// The shop's results say that this steel transforms slower or faster than computed.
    PaceResults {
        /// Slower by this share of the time; negative: faster.
        slower_share: f64,
    },
    /// Results of who quenches; `hand_results` in older records.
    #[serde(alias = "hand_results")]
    OperatorResults {
        /// Who, when known.
        #[serde(alias = "hand")]
        operator: Option<String>,
        /// They take so much longer to the bath than is planned; negative: less, s. None where that is not seen.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        slower_s: Option<f64>,
    },
    /// The shop's results near this temper.
    TemperResults {},
    /// The shop's results near this thickness.
    ThicknessResults {},
    /// What was learned from, and what it changed.
    Learned {
        /// Results in all.
        results: usize,
        /// Those on this steel.
        on_steel: usize,
        /// What physics alone said, HRC.
        physics_hrc: f64,
        /// Width of the interval, HRC.
        width_hrc: f64,
        /// Width without the results, HRC.
        width_before_hrc: f64,
    },
    /// What the width comes from before any result, largest first.
    WidthFrom {
        /// One standard deviation each; they add in squares.
        parts: Vec<SpreadPart>,
    },
    /// A station's last check was counted.
    CheckCounted {
        /// Its name, when known.
        station: Option<String>,
        /// It runs hotter than it shows by so much; negative: cooler, K.
        by_k: f64,
        /// What it shows, °C.
        shown_c: f64,
        /// How near and fresh the check is, where it does not tell all.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        faded: Option<CheckReach>,
    },
    /// A station's last check says little of this heat.
    CheckTellsLittle {
        /// Its name, when known.
        station: Option<String>,
        /// What it shows, °C.
        shown_c: f64,
        /// How near and fresh the check is.
        reach: CheckReach,
    },
    /// What the temper costs by the degree.
    TemperSlope {
        /// Hardness lost for each K, HRC.
        hrc_per_k: f64,
    },
    /// What a torch leaves of a part.
    Torched {
        /// The part.
        part: Part,
        /// Its hardness then, HRC.
        hrc: f64,
    },
    /// Where the line is.
    LineAt {
        /// Mean height of half martensite above the edge, mm.
        height_mm: f64,
        /// Way from hard to soft, mm.
        band_mm: f64,
        /// Short enough for a crisp line.
        crisp: bool,
    },
    /// Records put a line where the engine sees none.
    LineFromRecords {},
    /// The shop's own lines came out elsewhere than simulated.
    LinesMoved {
        /// Higher by so much; negative: lower, mm.
        by_mm: f64,
    },
    /// There is no line.
    NoLine {
        /// Why.
        none: NoLine,
    },
    /// Clay can crack off; it has to dry.
    ClayMustHold {
        /// Where it dries in an oven, °C.
        dry_c: f64,
        /// How long that takes, s.
        dry_s: f64,
    },
    /// How much of the middle of the blade hardens.
    MiddleHardens {
        /// Percent of it.
        percent: f64,
        /// ASTM grain size number at the quench.
        grain_astm: f64,
        /// Carbon in solution, percent by weight.
        carbon_percent: f64,
    },
    /// It stays straight from edge to spine.
    StaysStraight {},
    /// It curves in its own plane.
    Curves {
        /// Sag; positive towards the spine, the edge ending longer, mm.
        sori_mm: f64,
    },
    /// What differs from face to face bends it one way near the heel and the other near the tip.
    Twists {
        /// How much of the sag comes back, mm.
        twist_mm: f64,
    },
    /// The shop's own blades curved otherwise than simulated.
    CurvesMoved {
        /// Further towards the spine by so much; negative: towards the edge, mm.
        by_mm: f64,
    },
    /// One of the causes of a sag sideways.
    WarpFrom {
        /// Which.
        driver: Driver,
        /// One standard deviation of the sag, mm.
        mm: f64,
        /// Times what it is in a shop without records.
        times: f64,
    },
    /// Clamped to something straight in the first temper.
    ClampedInTemper {
        /// Its heat, °C.
        temper_c: f64,
        /// Share of what it is bent by there that stays, 0 to 1.
        takes_out: f64,
        /// How far past straight to shim it, for each millimetre of bow, mm.
        shim_per_mm: f64,
        /// Clamps of this shop that it was learned from.
        tried: usize,
    },
    /// What uneven cooling of the faces does, as engines before the third had it: kept predictions say so.
    UnevenCooling {
        /// Sag sideways for each tenth more on one face, mm.
        per_tenth_mm: f64,
        /// How much quenches differ from face to face, percent.
        unevenness_percent: f64,
    },
    /// Clay that differs from face to face bends it by itself.
    UnevenClay {
        /// Sag sideways, mm.
        side_mm: f64,
    },
    /// Bevels that differ from side to side bend it by themselves.
    UnevenBevels {
        /// Sag sideways, mm.
        side_mm: f64,
    },
    /// Something raises the odds of a crack.
    CrackCause {
        /// What.
        cause: Cause,
        /// By this factor.
        odds: f64,
    },
    /// Odds from handbooks and smiths, no blade of the shop yet.
    CracksByHandbook {},
    /// Odds with blades of the shop.
    CracksByRecords {
        /// How many.
        blades: usize,
    },
    /// The shop's broken coupons were finer or coarser than computed.
    CouponsFiner {
        /// ASTM numbers finer; negative: coarser.
        by_astm: f64,
    },
    /// Grain at the quench.
    GrainAtQuench {
        /// Mean grain, µm.
        grain_um: f64,
        /// The finest that heats through critical reach, µm.
        finest_um: f64,
    },
    /// Skin that loses carbon.
    SkinLost {
        /// On each face, mm.
        depth_mm: f64,
        /// The edge is thinner than both skins.
        edge_gone: bool,
    },
    /// When the soak counts.
    SoakFrom {
        /// The fire.
        furnace: Furnace,
        /// When the parts are at heat, and the soak.
        #[serde(flatten)]
        soak: Soak,
    },
}

impl Reason {
    /// A reason without an effect in HRC.
    #[must_use]
    pub const fn plain(about: About, why: Why) -> Self {
        Self {
            about,
            why,
            effect_hrc: None,
            learned: false,
        }
    }

    /// The same reason, marked as coming from the shop's records.
    #[must_use]
    pub const fn from_records(mut self) -> Self {
        self.learned = true;
        self
    }

    /// A reason with its effect on hardness, HRC.
    #[must_use]
    pub const fn moved(about: About, why: Why, effect_hrc: f64) -> Self {
        Self {
            about,
            why,
            effect_hrc: Some(effect_hrc),
            learned: false,
        }
    }
}
