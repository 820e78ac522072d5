//! What came of a blade besides tested hardness: the hamon, how it bent, whether it cracked, what files and
//! punches said, its grain, its polish, its trials, its burns, and its end.

use crate::material::temper::COLOUR_NAMES;
use crate::process::sighting::Light;
use crate::quantity::units::{Hrc, Quantity};
use crate::quantity::validation::{Checker, Faults, Unit};
use crate::record::reading::When;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Most places where a line is measured.
pub const MAX_PLACES: usize = 60;

/// One thing found.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Finding {
    /// The hamon, measured at one or more places.
    Line {
        /// A second line beside the hamon: kept, and not learned from.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        second: bool,
        /// Height above the edge by place: [x from the heel, mm], 1 to 60 places.
        places: Vec<[f64; 2]>,
        /// Width of the band from hard to soft, 0 to 100 mm, when measured.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        band_mm: Option<f64>,
        /// How clear it stands, 1 (hardly to be seen) to 5 (sharp from across the room).
        #[serde(default, skip_serializing_if = "Option::is_none")]
        clarity: Option<u8>,
        /// How lively it runs, 1 (a ruled line) to 5 (waves and islands).
        #[serde(default, skip_serializing_if = "Option::is_none")]
        liveliness: Option<u8>,
        /// The photograph it was traced on.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        photo_id: Option<Uuid>,
    },
    /// How straight it is along its length.
    Straight {
        /// After what.
        after: After,
        /// `[from the heel, off the straight]`, mm, 1 to 60 places: positive to the left, seen from the
        /// heel with the edge down.
        places: Vec<[f64; 2]>,
    },
    /// Sideways sag straight from the quench, before straightening.
    Side {
        /// −100 to 100 mm; 0 is straight.
        sag_mm: f64,
    },
    /// How it curved in its plane straight from the quench.
    Sori {
        /// Towards the spine, −100 to 100 mm; below zero towards the edge.
        sori_mm: f64,
        /// How far it was curved before the fire, likewise.
        #[serde(default)]
        before_mm: f64,
    },
    /// Clamped straight, or past straight, in a temper.
    Clamped {
        /// How far it was bowed before, 0 to 100 mm.
        bow_mm: f64,
        /// How far past straight it was shimmed, 0 to 100 mm.
        shim_mm: f64,
        /// What was left of the bow, −100 to 100 mm; below zero it went to the other side.
        left_mm: f64,
    },
    /// It cracked, or it was looked for and did not.
    Crack {
        /// Whether it did.
        cracked: bool,
        /// Where the line is, `[from the heel, above the edge]`, mm.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        place: Option<[f64; 2]>,
    },
    /// Twisted along its length.
    Twist {
        /// From heel to tip, −90 to 90°; above zero as a right-hand screw.
        degrees: f64,
    },
    /// What was heard as it cooled, or when it was struck.
    Heard {
        /// What.
        sound: Sound,
    },
    /// The colour that a temper left on clean steel.
    TemperColour {
        /// As [`crate::material::temper::colour`] names it.
        colour: String,
        /// The light it was seen in.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        light: Option<Light>,
    },
    /// Scale and soft skin were taken off.
    SkinOff {
        /// Of each face, 0.01 to 5 mm.
        off_mm: f64,
    },
    /// How hard the steel was as it came.
    AsReceived {
        /// 0 to 70 HRC.
        hrc: f64,
    },
    /// Files: one skates, a harder one bites; or one of them alone.
    File {
        /// When.
        stage: When,
        /// Hardness of the hardest file that skates, 0 to 70 HRC.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        low_hrc: Option<f64>,
        /// Hardness of the softest file that bites, 0 to 70 HRC.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        high_hrc: Option<f64>,
        /// The blade was still warm.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        warm: bool,
        /// The decarburized skin was still on.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        skin_on: bool,
    },
    /// A punch of known hardness set on it.
    Punch {
        /// When.
        stage: When,
        /// Hardness of the punch, 20 to 70 HRC.
        punch_hrc: f64,
        /// It left a mark: the blade is the softer one.
        marked: bool,
        /// The blade was still warm.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        warm: bool,
        /// The decarburized skin was still on.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        skin_on: bool,
    },
    /// Grain of a coupon quenched with it and broken.
    Grain {
        /// By comparison, ASTM number, 1 to 14; higher is finer.
        astm: f64,
    },
    /// One step of polishing.
    Polish {
        /// Paper or stone, 1 to 60 characters.
        with: String,
    },
    /// One step of etching.
    Etch {
        /// What with, and how strong, 1 to 60 characters.
        with: String,
        /// Dips, 1 to 200.
        dips: u32,
        /// Each, 0.5 to 3600 s.
        dip_s: f64,
    },
    /// A trial of the edge.
    Trial {
        /// What was done.
        work: EdgeWork,
        /// What the edge did.
        edge: EdgeResult,
        /// Strokes or cuts, when counted, 1 to 100,000.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        strokes: Option<u32>,
    },
    /// A colour that the belt left.
    Burn {
        /// As [`crate::material::temper::colour`] names it.
        colour: String,
        /// About how long it was hot, 0.05 to 60 s.
        hot_s: f64,
        /// Where, `[from the heel, above the edge]`, mm.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        place: Option<[f64; 2]>,
    },
    /// It was given up.
    Scrap {
        /// Why.
        cause: ScrapCause,
    },
}

/// No blade steel is harder, HRC.
const HARDEST_HRC: f64 = 69.0;
/// What is known to be softer than something is not softer by more than this, HRC.
const ONE_SIDE_HRC: f64 = 25.0;

/// Between what hardnesses a blade was found.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Bracket {
    /// When.
    pub stage: When,
    /// At least, HRC.
    pub low_hrc: f64,
    /// At most, HRC.
    pub high_hrc: f64,
    /// The blade was still warm.
    pub warm: bool,
    /// The skin was still on.
    pub skin_on: bool,
}

impl Bracket {
    /// It says what the steel is: neither warm nor through the skin.
    #[must_use]
    pub const fn counts(&self) -> bool {
        !self.warm && !self.skin_on
    }
}

/// After what straightness was looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum After {
    /// Before the fire: what the quench did is what came on top.
    Forging,
    /// Straight from the quench: this is learned from.
    Quench,
    /// After it was straightened.
    Straightening,
    /// After the last temper.
    Temper,
    /// After finish grinding.
    Grinding,
}

/// What an edge is tried on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum EdgeWork {
    /// Whittling seasoned wood.
    Carve,
    /// Chopping.
    Chop,
    /// Cutting across rope or fibre.
    CrossCut,
    /// Flexing over a rod.
    Flex,
}

/// What the edge did.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum EdgeResult {
    /// It held.
    Held,
    /// It rolled over: too soft, or too thin.
    Rolled,
    /// It chipped: too hard, too coarse, or too thin.
    Chipped,
    /// It went dull soon.
    Dulled,
}

/// What a blade sounds like.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Sound {
    /// A ping from the bath or after it.
    Ping,
    /// It rings clear when it is struck.
    Clear,
    /// It sounds dull when it is struck.
    Dull,
}

/// Why a blade was given up.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum ScrapCause {
    /// It cracked.
    Cracked,
    /// It would not come straight.
    Bent,
    /// It would not harden.
    Soft,
    /// It was burned in the fire or at the belt.
    Burned,
    /// Grain too coarse.
    Coarse,
    /// It was ground too thin, or out of shape.
    Ground,
    /// Anything else; the remark says what.
    Other,
}

fn check_mm(c: &mut Checker, field: String, value: f64, (low, high): (f64, f64)) {
    if !(low..=high).contains(&value) {
        c.refuse_outside(
            field,
            "This is not possible.",
            (low, high),
            Unit::Millimetre,
        );
    }
}

fn check_name(c: &mut Checker, with: &str) {
    let count = with.trim().chars().count();
    if !(1..=60).contains(&count) || with.chars().any(char::is_control) {
        c.refuse_allowing("with", "Say what with.", "1 to 60 characters");
    }
}

fn check_line(
    c: &mut Checker,
    places: &[[f64; 2]],
    band_mm: Option<f64>,
    [clarity, liveliness]: [Option<u8>; 2],
) {
    for (field, grade) in [("clarity", clarity), ("liveliness", liveliness)] {
        if grade.is_some_and(|g| !(1..=5).contains(&g)) {
            c.refuse_allowing(field, "There is no such grade.", "1 to 5");
        }
    }
    for (i, [x, height]) in places.iter().enumerate().take(MAX_PLACES) {
        check_mm(c, format!("places[{i}][0]"), *x, (0.0, 1000.0));
        check_mm(c, format!("places[{i}][1]"), *height, (0.0, 300.0));
    }
    if let Some(band) = band_mm {
        check_mm(c, "band_mm".to_owned(), band, (0.0, 100.0));
    }
    if places.is_empty() || places.len() > MAX_PLACES {
        let sentence = "A line is measured somewhere.";
        c.refuse_allowing("places", sentence, format!("1 to {MAX_PLACES} places"));
    }
}

fn check_colour(c: &mut Checker, colour: &str) {
    if !COLOUR_NAMES.contains(&colour) {
        let sentence = format!("{colour} is no temper colour.");
        c.refuse_allowing("colour", sentence, COLOUR_NAMES.join(", "));
    }
}

fn check_burn(c: &mut Checker, colour: &str, hot_s: f64, place: Option<[f64; 2]>) {
    check_colour(c, colour);
    if !(0.05..=60.0).contains(&hot_s) {
        let message = "This is no moment at the belt.";
        c.refuse_outside("hot_s", message, (0.05, 60.0), Unit::Second);
    }
    if let Some([x, y]) = place {
        check_mm(c, "place[0]".to_owned(), x, (-500.0, 1000.0));
        check_mm(c, "place[1]".to_owned(), y, (-50.0, 300.0));
    }
}

fn check_files(c: &mut Checker, low_hrc: Option<f64>, high_hrc: Option<f64>) {
    for (field, hrc) in [("low_hrc", low_hrc), ("high_hrc", high_hrc)] {
        hrc.map(|hrc| c.take(Hrc::check(field, hrc)));
    }
    if low_hrc.is_none() && high_hrc.is_none() {
        c.refuse("low_hrc", "Say which file skates, or which one bites.");
    }
    if low_hrc.zip(high_hrc).is_some_and(|(low, high)| low >= high) {
        let sentence = "The file that skates is the softer one of the two.";
        c.refuse("low_hrc", sentence);
    }
}

/// How far the place that is farthest off is off, mm.
fn farthest(places: &[[f64; 2]]) -> Option<f64> {
    places
        .iter()
        .map(|p| p[1])
        .max_by(|a, b| a.abs().total_cmp(&b.abs()))
}

impl Finding {
    /// The largest sideways sag straight from the quench, mm, where that is what was found.
    #[must_use]
    pub fn sag_mm(&self) -> Option<f64> {
        match self {
            Self::Side { sag_mm } => Some(*sag_mm),
            Self::Straight {
                after: After::Quench,
                places,
            } => farthest(places),
            _ => None,
        }
    }

    /// How far it was off to the left before the fire, mm, where that is what was found.
    #[must_use]
    pub fn before_mm(&self) -> Option<f64> {
        match self {
            Self::Straight {
                after: After::Forging,
                places,
            } => farthest(places),
            _ => None,
        }
    }

    /// It can be found of a blade that was not quenched yet.
    #[must_use]
    pub fn is_early(&self) -> bool {
        self.before_mm().is_some()
            || matches!(
                self,
                Self::Scrap { .. } | Self::SkinOff { .. } | Self::AsReceived { .. }
            )
    }

    /// It is held against what the engine says of the quench of the whole blade.
    #[must_use]
    pub const fn is_of_the_whole_blade(&self) -> bool {
        matches!(
            self,
            Self::Line { .. }
                | Self::Straight {
                    after: After::Quench | After::Forging,
                    ..
                }
                | Self::Side { .. }
                | Self::Sori { .. }
                | Self::Clamped { .. }
                | Self::Crack { .. }
                | Self::Grain { .. }
        )
    }

    /// Between what hardnesses a file or punch puts it, whether or not that counts.
    #[must_use]
    pub fn bracket(&self) -> Option<Bracket> {
        let bracket = |stage, low: Option<f64>, high: Option<f64>, warm, skin_on| {
            // One alone says only one side; no blade steel is outside the other.
            let (low_hrc, high_hrc) = match (low, high) {
                (Some(low), Some(high)) => (low, high),
                (Some(low), None) => (low, HARDEST_HRC.max(low)),
                (None, Some(high)) => ((high - ONE_SIDE_HRC).max(10.0).min(high), high),
                (None, None) => return None,
            };
            Some(Bracket {
                stage,
                low_hrc,
                high_hrc,
                warm,
                skin_on,
            })
        };
        match *self {
            Self::File {
                stage,
                low_hrc,
                high_hrc,
                warm,
                skin_on,
            } => bracket(stage, low_hrc, high_hrc, warm, skin_on),
            Self::Punch {
                stage,
                punch_hrc,
                marked,
                warm,
                skin_on,
            } => {
                let (low, high) = if marked {
                    (None, Some(punch_hrc))
                } else {
                    (Some(punch_hrc), None)
                };
                bracket(stage, low, high, warm, skin_on)
            }
            _ => None,
        }
    }

    /// Checks the numbers.
    ///
    /// # Errors
    /// Faults such as `places[2][1]`, `band_mm`, `sag_mm`, `low_hrc`.
    pub fn check(&self) -> Result<(), Faults> {
        let mut c = Checker::default();
        match self {
            Self::Line {
                places,
                band_mm,
                clarity,
                liveliness,
                ..
            } => check_line(&mut c, places, *band_mm, [*clarity, *liveliness]),
            Self::Straight { places, .. } => {
                for (i, [x, off]) in places.iter().enumerate().take(MAX_PLACES) {
                    check_mm(&mut c, format!("places[{i}][0]"), *x, (-500.0, 1000.0));
                    check_mm(&mut c, format!("places[{i}][1]"), *off, (-100.0, 100.0));
                }
                if places.is_empty() || places.len() > MAX_PLACES {
                    let sentence = "Straightness is looked at somewhere.";
                    c.refuse_allowing("places", sentence, format!("1 to {MAX_PLACES} places"));
                }
            }
            Self::Side { sag_mm } => {
                check_mm(&mut c, "sag_mm".to_owned(), *sag_mm, (-100.0, 100.0));
            }
            Self::Sori { sori_mm, before_mm } => {
                check_mm(&mut c, "sori_mm".to_owned(), *sori_mm, (-100.0, 100.0));
                check_mm(&mut c, "before_mm".to_owned(), *before_mm, (-100.0, 100.0));
            }
            Self::Clamped {
                bow_mm,
                shim_mm,
                left_mm,
            } => {
                check_mm(&mut c, "bow_mm".to_owned(), *bow_mm, (0.0, 100.0));
                check_mm(&mut c, "shim_mm".to_owned(), *shim_mm, (0.0, 100.0));
                check_mm(&mut c, "left_mm".to_owned(), *left_mm, (-100.0, 100.0));
                if bow_mm + shim_mm < 0.1 {
                    c.refuse("bow_mm", "A clamp bends it by something.");
                }
            }
            Self::Crack { place, .. } => {
                if let Some([x, y]) = place {
                    check_mm(&mut c, "place[0]".to_owned(), *x, (-500.0, 1000.0));
                    check_mm(&mut c, "place[1]".to_owned(), *y, (-50.0, 300.0));
                }
            }
            Self::Scrap { .. } | Self::Heard { .. } => {}
            Self::Twist { degrees } => {
                if !(-90.0..=90.0).contains(degrees) {
                    c.refuse_allowing("degrees", "No blade twists so far.", "-90 to 90");
                }
            }
            Self::TemperColour { colour, .. } => check_colour(&mut c, colour),
            Self::SkinOff { off_mm } => {
                check_mm(&mut c, "off_mm".to_owned(), *off_mm, (0.01, 5.0));
            }
            Self::AsReceived { hrc } => {
                c.take(Hrc::check("hrc", *hrc));
            }
            Self::Punch { punch_hrc, .. } => {
                if !(20.0..=70.0).contains(punch_hrc) {
                    let message = "There is no punch of this hardness.";
                    c.refuse_outside("punch_hrc", message, (20.0, 70.0), Unit::Hrc);
                }
            }
            Self::Grain { astm } => {
                if !(1.0..=14.0).contains(astm) {
                    let sentence = format!("ASTM {astm} is no grain of a blade.");
                    c.refuse_allowing("astm", sentence, "1 to 14");
                }
            }
            Self::Polish { with } => check_name(&mut c, with),
            Self::Etch { with, dips, dip_s } => {
                check_name(&mut c, with);
                if !(1..=200).contains(dips) {
                    c.refuse_allowing("dips", "So many dips are none.", "1 to 200");
                }
                if !(0.5..=3600.0).contains(dip_s) {
                    let message = "This is no dip.";
                    c.refuse_outside("dip_s", message, (0.5, 3600.0), Unit::Second);
                }
            }
            Self::Trial { strokes, .. } => {
                if strokes.is_some_and(|s| !(1..=100_000).contains(&s)) {
                    c.refuse_allowing("strokes", "Nobody counts these.", "1 to 100,000");
                }
            }
            Self::Burn {
                colour,
                hot_s,
                place,
            } => check_burn(&mut c, colour, *hot_s, *place),
            Self::File {
                low_hrc, high_hrc, ..
            } => check_files(&mut c, *low_hrc, *high_hrc),
        }
        c.finish(Some(()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(r#"{"kind":"line","places":[[20,11],[90,12.5]],"band_mm":3}"#, None)]
    #[case(r#"{"kind":"line","places":[]}"#, Some("places"))]
    #[case(r#"{"kind":"line","places":[[20,400]]}"#, Some("places[0][1]"))]
    #[case(r#"{"kind":"line","places":[[20,10]],"band_mm":-1}"#, Some("band_mm"))]
    #[case(r#"{"kind":"side","sag_mm":0.8}"#, None)]
    #[case(r#"{"kind":"side","sag_mm":800}"#, Some("sag_mm"))]
    #[case(r#"{"kind":"line","places":[[20,10]],"clarity":6}"#, Some("clarity"))]
    #[case(
        r#"{"kind":"straight","after":"quench","places":[[20,0.2],[90,-0.6]]}"#,
        None
    )]
    #[case(r#"{"kind":"straight","after":"temper","places":[]}"#, Some("places"))]
    #[case(
        r#"{"kind":"straight","after":"temper","places":[[20,400]]}"#,
        Some("places[0][1]")
    )]
    #[case(
        r#"{"kind":"punch","stage":"tempered","punch_hrc":90,"marked":true}"#,
        Some("punch_hrc")
    )]
    #[case(r#"{"kind":"grain","astm":9.5}"#, None)]
    #[case(r#"{"kind":"grain","astm":0}"#, Some("astm"))]
    #[case(r#"{"kind":"polish","with":" "}"#, Some("with"))]
    #[case(r#"{"kind":"etch","with":"iron salts 1:8","dips":4,"dip_s":10}"#, None)]
    #[case(
        r#"{"kind":"etch","with":"vinegar","dips":0,"dip_s":10}"#,
        Some("dips")
    )]
    #[case(
        r#"{"kind":"etch","with":"vinegar","dips":1,"dip_s":9999}"#,
        Some("dip_s")
    )]
    #[case(r#"{"kind":"trial","work":"chop","edge":"rolled","strokes":50}"#, None)]
    #[case(
        r#"{"kind":"trial","work":"chop","edge":"rolled","strokes":0}"#,
        Some("strokes")
    )]
    #[case(
        r#"{"kind":"burn","colour":"light blue","hot_s":0.5,"place":[120,1]}"#,
        None
    )]
    #[case(r#"{"kind":"burn","colour":"pink","hot_s":0.5}"#, Some("colour"))]
    #[case(r#"{"kind":"burn","colour":"light blue","hot_s":99}"#, Some("hot_s"))]
    #[case(r#"{"kind":"scrap","cause":"cracked"}"#, None)]
    #[case(r#"{"kind":"crack","cracked":false}"#, None)]
    #[case(
        r#"{"kind":"file","stage":"as_quenched","low_hrc":60,"high_hrc":65}"#,
        None
    )]
    #[case(
        r#"{"kind":"file","stage":"as_quenched","low_hrc":65,"high_hrc":60}"#,
        Some("low_hrc")
    )]
    #[case(
        r#"{"kind":"file","stage":"tempered","low_hrc":60,"high_hrc":75}"#,
        Some("high_hrc")
    )]
    fn numbers_are_checked_by_field(#[case] json: &str, #[case] field: Option<&str>) {
        let finding: Finding = serde_json::from_str(json).unwrap();
        match (finding.check(), field) {
            (Ok(()), None) => {}
            (Err(faults), Some(field)) => assert_eq!(faults.0[0].field, field),
            (got, _) => panic!("{got:?}"),
        }
    }

    #[test]
    fn what_is_learned_from_is_told_apart() {
        let read = |json: &str| serde_json::from_str::<Finding>(json).unwrap();
        let quenched =
            r#"{"kind":"straight","after":"quench","places":[[20,0.2],[90,-0.6],[150,0.1]]}"#;
        assert_eq!(read(quenched).sag_mm(), Some(-0.6));
        assert_eq!(read(&quenched.replace("quench", "temper")).sag_mm(), None);
        let punch = r#"{"kind":"punch","stage":"tempered","punch_hrc":58,"marked":false}"#;
        let between = |f: &Finding| f.bracket().map(|b| (b.low_hrc, b.high_hrc));
        assert_eq!(between(&read(punch)), Some((58.0, 69.0)));
        let marked = read(&punch.replace("false", "true"));
        assert_eq!(between(&marked), Some((33.0, 58.0)));
    }

    #[test]
    fn a_file_alone_is_a_finding_and_invents_no_other() {
        let read = |json: &str| serde_json::from_str::<Finding>(json).unwrap();
        let between = |json: &str| {
            let found = read(json);
            found.check().unwrap();
            let b = found.bracket().unwrap();
            (b.low_hrc, b.high_hrc, b.counts())
        };
        let skates = r#"{"kind":"file","stage":"as_quenched","low_hrc":62}"#;
        assert_eq!(between(skates), (62.0, 69.0, true));
        let bites = r#"{"kind":"file","stage":"as_quenched","high_hrc":60}"#;
        assert_eq!(between(bites), (35.0, 60.0, true));
        let text = serde_json::to_string(&read(bites)).unwrap();
        assert!(
            !text.contains("low_hrc") && !text.contains("warm"),
            "{text}"
        );
        let warm = bites.replace("60}", r#"60,"warm":true}"#);
        assert!(!between(&warm).2);
        let skin = bites.replace("60}", r#"60,"skin_on":true}"#);
        assert!(!between(&skin).2);
        let none = r#"{"kind":"file","stage":"as_quenched"}"#;
        assert_eq!(read(none).check().unwrap_err().0[0].field, "low_hrc");
    }

    #[test]
    fn what_is_no_finding_is_refused() {
        assert!(serde_json::from_str::<Finding>(r#"{"kind":"smell"}"#).is_err());
        assert!(serde_json::from_str::<Finding>(r#"{"kind":"side","sag_mm":1,"x":2}"#).is_err());
    }
}
