//! A step as a caller writes it, before it is checked: one shape for each kind.

use crate::material::medium::Medium;
use crate::process::furnace::Furnace;
use crate::process::heat_transfer::Agitation;
use crate::process::manner::{Bed, Clamp, ColdBath, Cooled, Entry, PlatesDraft};
use crate::process::sighting::{Sighting, SightingDraft};
use crate::process::step::{Look, MAX_STAGES, MAX_TIMES, Part, Stage, Step, TRANSFER_RANGE_S};
use crate::process::temper_colour::{TemperSighting, TemperSightingDraft};
use crate::quantity::units::{Celsius, Litres, Millimetres, Quantity, Seconds};
use crate::quantity::validation::{Checker, Faults, Unit, ids};
use serde::de::IgnoredAny;
use serde::{Deserialize, Deserializer, Serialize};
use uuid::Uuid;

/// Hold of a step whose blade is taken out once it is even, s.
const EVEN_S: f64 = 60.0;
/// Thickest shim in a clamp, mm.
const MAX_SHIM_MM: f64 = 20.0;
/// Heat of a step that is judged by eye before its steel is known, °C.
const PLAIN_HEAT_C: f64 = 800.0;
/// Heat of a temper that is judged by colour before its steel is known, °C.
const PLAIN_TEMPER_C: f64 = 200.0;

/// A step as written by a caller. Numbers are optional and unchecked, so that every fault of every step
/// can be told at once; what is no number at all reads as NaN, which no range allows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum StepDraft {
    /// Heat and cool slowly.
    Anneal(AnnealDraft),
    /// Heat below critical.
    StressRelief(HoldDraft),
    /// Heat above critical and cool in air, once or more.
    Normalize(NormalizeDraft),
    /// Short even heat and cool in air.
    Refine(HoldDraft),
    /// Anti-scale coating.
    Coat {},
    /// Pouch of foil.
    Pouch {},
    /// Clay laid on and dried.
    Clay(HoldDraft),
    /// Even heat below critical.
    Preheat(HoldDraft),
    /// Heat for hardening.
    Austenitize(AustenitizeDraft),
    /// Quench.
    Quench(QuenchDraft),
    /// Straightening.
    Straighten {},
    /// Cooling before what follows.
    Cool(HoldDraft),
    /// Cold treatment.
    SubZero(SubZeroDraft),
    /// Temper.
    Temper(TemperDraft),
    /// Torch on a part.
    TorchTemper(TorchTemperDraft),
    /// The maker's mark, stamped hot.
    Stamp {},
    /// Stop and look.
    Check(CheckDraft),
}

macro_rules! draft {
    ($(#[$doc:meta])* $name:ident { $($(#[$field_meta:meta])* $field:ident: $kind:ty,)* }) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
        #[serde(deny_unknown_fields)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        pub struct $name {
            $($(#[$field_meta])* pub $field: $kind,)*
        }
    };
}

draft!(
    /// Numbers of a plain hold.
    HoldDraft {
        /// Temperature, −200 to 1300 °C.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
        temperature_c: Option<f64>,
        /// Hold, s; a minute for `refine` and none for `cool` when left out.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
        hold_s: Option<f64>,
        /// Of `refine`, `stress_relief` and `preheat`: how it is judged, where not by an instrument: then no temperature is needed.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<SightingDraft>,
    }
);

draft!(
    /// Numbers of an annealing.
    AnnealDraft {
        /// Temperature, −200 to 1300 °C.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
        temperature_c: Option<f64>,
        /// Hold, s.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
        hold_s: Option<f64>,
        /// How it is judged, where not by an instrument: then no temperature is needed.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<SightingDraft>,
        /// In what it cools: `furnace`, `ash` or `vermiculite`.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(value_type = Option<Bed>))]
        bed: Option<String>,
    }
);

draft!(
    /// Numbers of a normalizing.
    NormalizeDraft {
        /// Temperature, −200 to 1300 °C.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
        temperature_c: Option<f64>,
        /// Hold, s; a minute when left out.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
        hold_s: Option<f64>,
        /// How many of them, 1 to 12; each becomes a step. Once when left out.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 12))]
        times: Option<u32>,
        /// How it is judged, where not by an instrument: then no temperature is needed.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<SightingDraft>,
    }
);

draft!(
    /// Numbers of the heat for hardening.
    AustenitizeDraft {
        /// Temperature, −200 to 1300 °C.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
        temperature_c: Option<f64>,
        /// Soak, s, counted from back at heat.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
        soak_s: Option<f64>,
        /// Kiln or forge.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        station_id: Option<Uuid>,
        /// How it is judged, where not by an instrument: then no temperature is needed.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<SightingDraft>,
        /// Kind of fire: `kiln`, `forge`, `pipe` or `charcoal`.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(value_type = Option<Furnace>))]
        fire: Option<String>,
    }
);

draft!(
    /// The media of a quench.
    QuenchDraft {
        /// Stages in order, 1 to 6.
        #[serde(default)]
        stages: Vec<StageDraft>,
    }
);

draft!(
    /// Numbers of a cold treatment.
    SubZeroDraft {
        /// Temperature, −200 to 1300 °C.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
        temperature_c: Option<f64>,
        /// Hold, s.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
        hold_s: Option<f64>,
        /// Wait between quench and cold, s; none when left out.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
        wait_s: Option<f64>,
        /// What makes the cold: `freezer`, `dry_ice_alcohol`, `dry_ice_acetone` or `nitrogen`.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(value_type = Option<ColdBath>))]
        bath: Option<String>,
        /// How far it had warmed up again by the end, no colder than `temperature_c`, °C.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
        until_c: Option<f64>,
    }
);

draft!(
    /// Numbers of a temper.
    TemperDraft {
        /// Temperature, −200 to 1300 °C.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
        temperature_c: Option<f64>,
        /// The colour it is judged by, where not by an instrument: then no temperature is needed.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<TemperSightingDraft>,
        /// Hold of each, s, 1 or more.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 604_800))]
        hold_s: Option<f64>,
        /// How many, 1 to 12; one when left out.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 12))]
        times: Option<u32>,
        /// Oven.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        station_id: Option<Uuid>,
        /// Clamped to a straight bar, with a shim of 0.01 to 20 mm past straight or without.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        clamp: Option<ClampDraft>,
        /// In what it cools after each: `air`, `oven` or `water`.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(value_type = Option<Cooled>))]
        cooled: Option<String>,
        /// Blades in the oven at once, 1 to 50.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 50))]
        blades: Option<u32>,
    }
);

draft!(
    /// A clamp in the temper.
    ClampDraft {
        /// How far past straight a shim holds it; straight when left out.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 0.01, maximum = 20))]
        shim_mm: Option<f64>,
    }
);

draft!(
    /// What a torch does.
    TorchTemperDraft {
        /// What the part reaches, −200 to 1300 °C.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
        temperature_c: Option<f64>,
        /// The colour it is judged by, where not by an instrument: then no temperature is needed.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<TemperSightingDraft>,
        /// `spine` or `tang`.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(value_type = Option<Part>))]
        part: Option<String>,
    }
);

draft!(
    /// What a check point looks at.
    CheckDraft {
        /// `straight`, `cracked`, `hard`, `magnet` or `colour`.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(value_type = Option<Look>))]
        look: Option<String>,
    }
);

draft!(
    /// A quench stage as written by a caller.
    StageDraft {
        /// Medium, for example `fast_oil`.
        #[serde(default)]
        #[cfg_attr(feature = "schema", schema(value_type = Medium, required = true))]
        medium: String,
        /// Bath temperature, °C; the medium's usual one when left out.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = -20, maximum = 600))]
        bath_c: Option<f64>,
        /// Seconds before the next stage; not on the last.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
        for_s: Option<f64>,
        /// How blade or bath is moved; moved when left out.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(value_type = Option<Agitation>))]
        agitation: Option<String>,
        /// Only the edge goes in, this deep, 0.01 to 1000 mm.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 0.01, maximum = 1000))]
        edge_depth_mm: Option<f64>,
        /// Only this much goes in, from the tip, 0.01 to 1000 mm.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 0.01, maximum = 1000))]
        tip_length_mm: Option<f64>,
        /// Volume of the bath, 0.5 to 2000 l; endless when left out.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 0.5, maximum = 2000))]
        litres: Option<f64>,
        /// Blades quenched at once, 1 to 50.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 50))]
        blades: Option<u32>,
        /// Time in air on the way into it, 0 to 60 s; 2 s from the fire and none between baths when left out.
        #[serde(default, deserialize_with = "number", skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 60))]
        transfer_s: Option<f64>,
        /// How it goes in: `tip_first`, `edge_first`, `spine_first`, `flat` or `slanting`.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(value_type = Option<Entry>))]
        entry: Option<String>,
        /// The plates, between plates; aluminium of an inch when left out.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        plates: Option<PlatesDraft>,
        /// A tank of the shop with that medium in it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        tank_id: Option<Uuid>,
    }
);

/// A number as written; anything else that is not null is NaN, so that the check of its field refuses it
/// with the range it allows.
fn number<'de, D: Deserializer<'de>>(reader: D) -> Result<Option<f64>, D::Error> {
    #[derive(Deserialize)]
    #[serde(untagged)]
    enum Written {
        Number(f64),
        Other(IgnoredAny),
    }
    Ok(
        Option::<Written>::deserialize(reader)?.map(|written| match written {
            Written::Number(number) => number,
            Written::Other(_) => f64::NAN,
        }),
    )
}

/// Checks how many blades go through a step at once.
fn at_once(c: &mut Checker, blades: Option<u32>) {
    if let Some(blades) = blades.filter(|b| !(1..=50).contains(b)) {
        let message = format!("{blades} blades at once is not possible.");
        c.refuse_allowing("blades", message, "1 to 50");
    }
}

/// Checks how often a step is repeated.
fn repeats(c: &mut Checker, times: Option<u32>) -> u32 {
    let times = times.unwrap_or(1);
    if !(1..=MAX_TIMES).contains(&times) {
        let message = format!("{times} times is not possible.");
        c.refuse_allowing("times", message, format!("1 to {MAX_TIMES}"));
    }
    times.clamp(1, MAX_TIMES)
}

impl StepDraft {
    /// Checks one step; fields are relative to it. A normalizing that is repeated gives as many steps.
    ///
    /// # Errors
    /// Every missing or impossible value, with its field and the range allowed.
    ///
    /// ```
    /// use vatten_core::process::step_draft::StepDraft;
    /// let json = r#"{"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}"#;
    /// let draft: StepDraft = serde_json::from_str(json).unwrap();
    /// assert_eq!(draft.parse().unwrap()[0].rounds(), 2);
    /// ```
    pub fn parse(&self) -> Result<Vec<Step>, Faults> {
        let one = |step: Step| vec![step];
        Ok(match self {
            Self::Anneal(draft) => one(draft.parse()?),
            Self::StressRelief(draft) => {
                one(
                    draft.heat(None, |temperature_c, hold_s, by| Step::StressRelief {
                        temperature_c,
                        hold_s,
                        by,
                    })?,
                )
            }
            Self::Normalize(draft) => draft.parse()?,
            Self::Refine(draft) => {
                one(
                    draft.heat(Some(EVEN_S), |temperature_c, hold_s, by| Step::Refine {
                        temperature_c,
                        hold_s,
                        by,
                    })?,
                )
            }
            Self::Coat {} => one(Step::Coat {}),
            Self::Pouch {} => one(Step::Pouch {}),
            Self::Clay(draft) => one(draft.hold(None, |temperature_c, hold_s| Step::Clay {
                temperature_c,
                hold_s,
            })?),
            Self::Preheat(draft) => {
                one(draft.heat(None, |temperature_c, hold_s, by| Step::Preheat {
                    temperature_c,
                    hold_s,
                    by,
                })?)
            }
            Self::Austenitize(draft) => one(draft.parse()?),
            Self::Quench(draft) => one(draft.parse()?),
            Self::Straighten {} => one(Step::Straighten {}),
            Self::Stamp {} => one(Step::Stamp {}),
            Self::Cool(draft) => {
                one(draft.hold(Some(0.0), |temperature_c, hold_s| Step::Cool {
                    temperature_c,
                    hold_s,
                })?)
            }
            Self::SubZero(draft) => one(draft.parse()?),
            Self::Temper(draft) => one(draft.parse()?),
            Self::TorchTemper(draft) => one(draft.parse()?),
            Self::Check(draft) => one(Step::Check {
                look: Look::parse(draft.look.as_deref())?,
            }),
        })
    }
}

impl HoldDraft {
    /// A step of these numbers; `usual_s` is the hold where none was written.
    fn hold(
        &self,
        usual_s: Option<f64>,
        step: impl Fn(Celsius, Seconds) -> Step,
    ) -> Result<Step, Faults> {
        let mut c = Checker::default();
        if self.by.is_some() {
            c.refuse("by", "The heat of such a step is not judged by eye.");
        }
        let temperature = c.take(Celsius::need("temperature_c", self.temperature_c));
        let hold = c.take(Seconds::need("hold_s", self.hold_s.or(usual_s)));
        c.finish(temperature.zip(hold).map(|(t, s)| step(t, s)))
    }

    /// A step of these numbers that may be judged by eye.
    fn heat(
        &self,
        usual_s: Option<f64>,
        step: impl Fn(Celsius, Seconds, Option<Sighting>) -> Step,
    ) -> Result<Step, Faults> {
        let mut c = Checker::default();
        let judged = judged(&mut c, self.temperature_c, self.by.as_ref());
        let hold = c.take(Seconds::need("hold_s", self.hold_s.or(usual_s)));
        c.finish(judged.zip(hold).map(|((t, by), s)| step(t, s, by)))
    }
}

/// The heat of a step, and how it is judged: until its steel is known a sighting is as hot as what it usually means
/// for a plain steel.
fn judged(
    c: &mut Checker,
    temperature_c: Option<f64>,
    by: Option<&SightingDraft>,
) -> Option<(Celsius, Option<Sighting>)> {
    match by {
        None => c
            .take(Celsius::need("temperature_c", temperature_c))
            .map(|t| (t, None)),
        Some(draft) => {
            let by = c.take(draft.parse().map_err(|f| f.under("by")));
            let written = temperature_c.map(|t| c.take(Celsius::check("temperature_c", t)));
            let plain = Celsius::clamped(PLAIN_HEAT_C);
            by.map(|by| (written.flatten().unwrap_or(plain), Some(by)))
        }
    }
}

/// A temper as written: in degrees, or by the colour that it leaves.
fn by_colour(
    c: &mut Checker,
    temperature_c: Option<f64>,
    by: Option<&TemperSightingDraft>,
) -> Option<(Celsius, Option<TemperSighting>)> {
    match by {
        None => c
            .take(Celsius::need("temperature_c", temperature_c))
            .map(|t| (t, None)),
        Some(draft) => {
            let by = c.take(draft.parse().map_err(|f| f.under("by")));
            let written = temperature_c.map(|t| c.take(Celsius::check("temperature_c", t)));
            let plain = Celsius::clamped(PLAIN_TEMPER_C);
            by.map(|by| (written.flatten().unwrap_or(plain), Some(by)))
        }
    }
}

impl NormalizeDraft {
    fn parse(&self) -> Result<Vec<Step>, Faults> {
        let mut c = Checker::default();
        let times = repeats(&mut c, self.times);
        let judged = judged(&mut c, self.temperature_c, self.by.as_ref());
        let hold = c.take(Seconds::need("hold_s", self.hold_s.or(Some(EVEN_S))));
        let step = judged
            .zip(hold)
            .map(|((temperature_c, by), hold_s)| Step::Normalize {
                temperature_c,
                hold_s,
                by,
            });
        c.finish(step.map(|step| vec![step; times as usize]))
    }
}

impl AustenitizeDraft {
    fn parse(&self) -> Result<Step, Faults> {
        let mut c = Checker::default();
        let judged = judged(&mut c, self.temperature_c, self.by.as_ref());
        let soak = c.take(Seconds::need("soak_s", self.soak_s));
        let fire = self.fire.as_deref();
        let fire = fire.and_then(|text| c.take(Furnace::parse("fire", text)));
        c.finish(
            judged
                .zip(soak)
                .map(|((temperature_c, by), soak_s)| Step::Austenitize {
                    temperature_c,
                    soak_s,
                    station_id: self.station_id,
                    by,
                    fire,
                }),
        )
    }
}

impl QuenchDraft {
    fn parse(&self) -> Result<Step, Faults> {
        let mut c = Checker::default();
        let drafts = &self.stages;
        if drafts.is_empty() || drafts.len() > MAX_STAGES {
            c.refuse_allowing(
                "stages",
                "A quench needs its media.",
                format!("1 to {MAX_STAGES} stages"),
            );
        }
        let mut stages = Vec::new();
        for (i, draft) in drafts.iter().enumerate().take(MAX_STAGES) {
            let last = i + 1 == drafts.len();
            let stage = draft.parse(last);
            stages.extend(c.take(stage.map_err(|f| f.under(&format!("stages[{i}]")))));
        }
        c.finish(Some(Step::Quench { stages }))
    }
}

impl SubZeroDraft {
    fn parse(&self) -> Result<Step, Faults> {
        let mut c = Checker::default();
        let temperature = c.take(Celsius::need("temperature_c", self.temperature_c));
        let hold = c.take(Seconds::need("hold_s", self.hold_s));
        let wait = c.take(Seconds::check("wait_s", self.wait_s.unwrap_or(0.0)));
        let bath = self.bath.as_deref();
        let bath = bath.and_then(|text| c.take(ColdBath::parse("bath", text)));
        let until_c = self
            .until_c
            .and_then(|t| c.take(Celsius::check("until_c", t)));
        if let (Some(until), Some(cold)) = (until_c, temperature)
            && until < cold
        {
            let range = (cold.value(), Celsius::RANGE.1);
            let message = "It cannot have ended colder than it was.";
            c.refuse_outside("until_c", message, range, Unit::Celsius);
        }
        let numbers = temperature.zip(hold).zip(wait);
        c.finish(
            numbers.map(|((temperature_c, hold_s), wait_s)| Step::SubZero {
                temperature_c,
                hold_s,
                wait_s,
                bath,
                until_c,
            }),
        )
    }
}

impl TemperDraft {
    fn parse(&self) -> Result<Step, Faults> {
        let mut c = Checker::default();
        let times = repeats(&mut c, self.times);
        let judged = by_colour(&mut c, self.temperature_c, self.by.as_ref());
        let hold = c.take(Seconds::need("hold_s", self.hold_s));
        if hold.is_some_and(|t| t.value() < 1.0) {
            let range = (1.0, Seconds::RANGE.1);
            c.refuse_outside("hold_s", "A temper needs some time.", range, Unit::Second);
        }
        let cooled = self.cooled.as_deref();
        let cooled = cooled.and_then(|text| c.take(Cooled::parse("cooled", text)));
        let clamp = self
            .clamp
            .as_ref()
            .and_then(|clamp| c.take(clamp.parse().map_err(|f| f.under("clamp"))));
        at_once(&mut c, self.blades);
        c.finish(
            judged
                .zip(hold)
                .map(|((temperature_c, by), hold_s)| Step::Temper {
                    temperature_c,
                    hold_s,
                    times,
                    station_id: self.station_id,
                    clamp,
                    cooled,
                    blades: self.blades,
                    by,
                }),
        )
    }
}

impl ClampDraft {
    /// Checks a clamp.
    ///
    /// # Errors
    /// A shim that is none.
    pub fn parse(&self) -> Result<Clamp, Faults> {
        let mut c = Checker::default();
        let shim_mm = self
            .shim_mm
            .and_then(|v| c.take(Millimetres::check("shim_mm", v)));
        if shim_mm.is_some_and(|v| v.value() > MAX_SHIM_MM) {
            let range = (Millimetres::RANGE.0, MAX_SHIM_MM);
            let message = "A shim so thick bends the bar.";
            c.refuse_outside("shim_mm", message, range, Unit::Millimetre);
        }
        c.finish(Some(Clamp { shim_mm }))
    }
}

impl AnnealDraft {
    fn parse(&self) -> Result<Step, Faults> {
        let mut c = Checker::default();
        let judged = judged(&mut c, self.temperature_c, self.by.as_ref());
        let hold = c.take(Seconds::need("hold_s", self.hold_s));
        let bed = self.bed.as_deref();
        let bed = bed.and_then(|text| c.take(Bed::parse("bed", text)));
        let step = judged
            .zip(hold)
            .map(|((temperature_c, by), hold_s)| Step::Anneal {
                temperature_c,
                hold_s,
                by,
                bed,
            });
        c.finish(step)
    }
}

impl TorchTemperDraft {
    fn parse(&self) -> Result<Step, Faults> {
        let mut c = Checker::default();
        let judged = by_colour(&mut c, self.temperature_c, self.by.as_ref());
        let part = c.take(Part::parse(self.part.as_deref()));
        c.finish(
            judged
                .zip(part)
                .map(|((temperature_c, by), part)| Step::TorchTemper {
                    temperature_c,
                    part,
                    by,
                }),
        )
    }
}

impl StageDraft {
    fn parse(&self, last: bool) -> Result<Stage, Faults> {
        let mut c = Checker::default();
        let medium = Medium::parse(&self.medium);
        let Some(medium) = medium else {
            return Err(Faults::with_allowed(
                "medium",
                format!("There is no medium called {}.", self.medium),
                ids::<Medium>(),
            ));
        };
        let (low, high) = medium.bath_range_c();
        let bath = self.bath_c.unwrap_or_else(|| medium.usual_bath().value());
        if !(low..=high).contains(&bath) {
            let message = format!("This is not a working temperature of {}.", medium.name());
            c.refuse_outside("bath_c", message, (low, high), Unit::Celsius);
        }
        let for_s = match self.for_s {
            Some(s) if s <= 0.0 => {
                let range = (0.1, Seconds::RANGE.1);
                c.refuse_outside("for_s", "A stage needs some time.", range, Unit::Second);
                None
            }
            Some(s) => c.take(Seconds::check("for_s", s)),
            None if !last => {
                c.refuse("for_s", "How long before the next medium is needed.");
                None
            }
            None => None,
        };
        let agitation = self
            .agitation
            .as_deref()
            .and_then(|text| c.take(Agitation::parse("agitation", text)));
        let (least, most) = TRANSFER_RANGE_S;
        if self
            .transfer_s
            .is_some_and(|s| !(least..=most).contains(&s))
        {
            let message = "No blade takes that long into the bath.";
            c.refuse_outside("transfer_s", message, (least, most), Unit::Second);
        }
        let mut length = |field: &str, value: Option<f64>| {
            value.and_then(|v| c.take(Millimetres::check(field, v)))
        };
        let edge_depth_mm = length("edge_depth_mm", self.edge_depth_mm);
        let tip_length_mm = length("tip_length_mm", self.tip_length_mm);
        let litres = self.litres.and_then(|v| c.take(Litres::check("litres", v)));
        at_once(&mut c, self.blades);
        let entry = self.entry.as_deref();
        let entry = entry.and_then(|text| c.take(Entry::parse("entry", text)));
        let plates = self
            .plates
            .as_ref()
            .and_then(|p| c.take(p.parse().map_err(|f| f.under("plates"))));
        c.finish(Some(Stage {
            medium,
            bath_c: Celsius::clamped(bath),
            for_s,
            agitation,
            edge_depth_mm,
            tip_length_mm,
            litres,
            blades: self.blades,
            transfer_s: self.transfer_s.map(Seconds::clamped),
            entry,
            plates,
            tank_id: self.tank_id,
            own: None,
        }))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn draft(json: &str) -> StepDraft {
        serde_json::from_str(json).unwrap()
    }

    #[rstest]
    #[case(
        r#"{"kind":"anneal","temperature_c":760,"hold_s":60,"bed":"snow"}"#,
        "bed"
    )]
    #[case(
        r#"{"kind":"sub_zero","temperature_c":-75,"hold_s":60,"bath":"milk"}"#,
        "bath"
    )]
    #[case(
        r#"{"kind":"sub_zero","temperature_c":-75,"hold_s":60,"until_c":-90}"#,
        "until_c"
    )]
    #[case(
        r#"{"kind":"temper","temperature_c":205,"hold_s":60,"clamp":{"shim_mm":25}}"#,
        "clamp.shim_mm"
    )]
    #[case(
        r#"{"kind":"temper","temperature_c":205,"hold_s":60,"cooled":"sand"}"#,
        "cooled"
    )]
    #[case(
        r#"{"kind":"temper","temperature_c":205,"hold_s":60,"blades":0}"#,
        "blades"
    )]
    #[case(
        r#"{"kind":"quench","stages":[{"medium":"water","entry":"thrown"}]}"#,
        "stages[0].entry"
    )]
    #[case(r#"{"kind":"quench","stages":[{"medium":"plates","plates":{"metal":"lead","thickness_mm":20}}]}"#, "stages[0].plates.metal")]
    #[case(r#"{"kind":"quench","stages":[{"medium":"plates","plates":{"metal":"steel","thickness_mm":1}}]}"#, "stages[0].plates.thickness_mm")]
    #[case(r#"{"kind":"torch_temper","temperature_c":400,"part":"edge"}"#, "part")]
    #[case(r#"{"kind":"torch_temper","part":"spine"}"#, "temperature_c")]
    #[case(
        r#"{"kind":"temper","hold_s":3600,"by":{"colour":"straw","light":"moon"}}"#,
        "by.light"
    )]
    #[case(
        r#"{"kind":"torch_temper","part":"spine","by":{"colour":"red","light":"dim"}}"#,
        "by.colour"
    )]
    #[case(r#"{"kind":"check"}"#, "look")]
    #[case(r#"{"kind":"anneal","temperature_c":740}"#, "hold_s")]
    #[case(
        r#"{"kind":"anneal","temperature_c":"hot","hold_s":60}"#,
        "temperature_c"
    )]
    #[case(
        r#"{"kind":"anneal","temperature_c":[1],"hold_s":60}"#,
        "temperature_c"
    )]
    #[case(
        r#"{"kind":"normalize","temperature_c":850,"hold_s":60,"times":13}"#,
        "times"
    )]
    #[case(r#"{"kind":"quench","stages":[{"bath_c":20}]}"#, "stages[0].medium")]
    #[case(
        r#"{"kind":"quench","stages":[{"medium":"water","transfer_s":-1}]}"#,
        "stages[0].transfer_s"
    )]
    #[case(
        r#"{"kind":"quench","stages":[{"medium":"water","bath_c":"warm"}]}"#,
        "stages[0].bath_c"
    )]
    fn what_is_missing_or_impossible_is_named(#[case] json: &str, #[case] field: &str) {
        let faults = draft(json).parse().unwrap_err();
        assert_eq!(faults.0[0].field, field, "{faults}");
        assert_eq!(faults.0.len(), 1, "{faults}");
    }

    #[rstest]
    #[case(r#"{"kind":"coat","temperature_c":200}"#, "temperature_c")]
    #[case(
        r#"{"kind":"temper","temperature_c":200,"hold_s":60,"look":"hard"}"#,
        "look"
    )]
    #[case(
        r#"{"kind":"austenitize","temperature_c":815,"soak_s":1,"hold_s":2}"#,
        "hold_s"
    )]
    #[case(r#"{"kind":"polish"}"#, "polish")]
    fn each_kind_takes_only_its_own(#[case] json: &str, #[case] named: &str) {
        let error = serde_json::from_str::<StepDraft>(json).unwrap_err();
        assert!(error.to_string().contains(&format!("`{named}`")), "{error}");
    }

    #[test]
    fn a_repeated_normalizing_becomes_as_many_steps() {
        let steps = draft(r#"{"kind":"normalize","temperature_c":860,"times":3}"#).parse();
        assert_eq!(steps.unwrap().len(), 3);
        let temper = draft(r#"{"kind":"temper","temperature_c":200,"hold_s":60,"times":3}"#);
        assert_eq!(temper.parse().unwrap().len(), 1);
    }
}
