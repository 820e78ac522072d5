//! A step of a heat treatment, as it is kept and as a caller writes it.

use crate::material::medium::Medium;
use crate::process::heat_transfer::Agitation;
use crate::quantity::units::{Celsius, Litres, Millimetres, Quantity, Seconds};
use crate::quantity::validation::{Checker, Faults, Unit};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Version of the stored form of [`Step`].
pub const FORMAT: i32 = 2;
/// Most stages in one quench.
pub const MAX_STAGES: usize = 6;
/// Most repeats of one step.
pub const MAX_TIMES: u32 = 12;

/// One stage of a quench.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stage {
    /// What it goes into.
    pub medium: Medium,
    /// Bath temperature.
    pub bath_c: Celsius,
    /// How long before the next stage; the last runs until the blade is cold.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub for_s: Option<Seconds>,
    /// How blade or bath is moved; as usual when left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub agitation: Option<Agitation>,
    /// Only the edge goes in, this deep; the whole blade when left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub edge_depth_mm: Option<Millimetres>,
    /// Only this much of the blade goes in, from the tip; the whole blade when left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tip_length_mm: Option<Millimetres>,
    /// Volume of the bath, which warms up; as good as endless when left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub litres: Option<Litres>,
    /// Blades quenched at once in it, 1 to 50; one when left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub blades: Option<u32>,
}

impl Stage {
    /// The whole blade in a medium at its usual temperature, until cold.
    #[must_use]
    pub fn of(medium: Medium) -> Self {
        Self {
            medium,
            bath_c: medium.usual_bath(),
            for_s: None,
            agitation: None,
            edge_depth_mm: None,
            tip_length_mm: None,
            litres: None,
            blades: None,
        }
    }
}

/// One step of a plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Step {
    /// Heat above critical and cool in air: refines grain and evens the structure.
    Normalize {
        /// Temperature.
        temperature_c: Celsius,
        /// Hold once at heat.
        hold_s: Seconds,
    },
    /// Heat and cool slowly: soft for the drill.
    Anneal {
        /// Temperature.
        temperature_c: Celsius,
        /// Hold once at heat.
        hold_s: Seconds,
    },
    /// Heat below critical: takes out the strain of forging and grinding.
    StressRelief {
        /// Temperature.
        temperature_c: Celsius,
        /// Hold once at heat.
        hold_s: Seconds,
    },
    /// Short even heat and cool in air, to start fine grains once more.
    Refine {
        /// Temperature.
        temperature_c: Celsius,
        /// Hold once at heat.
        hold_s: Seconds,
    },
    /// Anti-scale coating, melted on before the hardening heat.
    Coat {},
    /// Into a closed pouch of stainless foil.
    Pouch {},
    /// Lay on the clay and dry it.
    Clay {
        /// Drying temperature.
        temperature_c: Celsius,
        /// Drying time.
        hold_s: Seconds,
    },
    /// Even heat below critical before the hardening heat.
    Preheat {
        /// Temperature.
        temperature_c: Celsius,
        /// Hold once even.
        hold_s: Seconds,
    },
    /// Heat for hardening and soak.
    Austenitize {
        /// Temperature.
        temperature_c: Celsius,
        /// Soak, counted from back at heat.
        soak_s: Seconds,
        /// The forge or kiln used, when known.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        station_id: Option<Uuid>,
    },
    /// Quench through one or more media.
    Quench {
        /// The media in order.
        stages: Vec<Stage>,
    },
    /// Straighten: out of the bath while still above the martensite start, or clamped later.
    Straighten {},
    /// Let it cool before what follows; room temperature or still warm to the hand.
    Cool {
        /// Down to this.
        temperature_c: Celsius,
        /// Hold there.
        hold_s: Seconds,
    },
    /// Cold treatment to turn retained austenite.
    SubZero {
        /// Temperature.
        temperature_c: Celsius,
        /// Hold.
        hold_s: Seconds,
        /// Wait between quench and cold.
        #[serde(default = "no_wait")]
        wait_s: Seconds,
    },
    /// Temper.
    Temper {
        /// Temperature.
        temperature_c: Celsius,
        /// Hold of each temper.
        hold_s: Seconds,
        /// How many tempers, cooled to room temperature between.
        times: u32,
        /// The oven used, when known.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        station_id: Option<Uuid>,
    },
    /// Soften a part with a torch, the edge in water.
    TorchTemper {
        /// What the part reaches.
        temperature_c: Celsius,
        /// Which part.
        part: Part,
    },
    /// Stop and look.
    Check {
        /// At what.
        look: Look,
    },
}

/// What a torch softens.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Part {
    /// The back of the blade.
    Spine,
    /// The tang and shoulders.
    Tang,
}

/// What a check point looks at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Look {
    /// Straight along edge and spine?
    Straight,
    /// Any crack: a ping heard, a line in the grinding marks?
    Cracked,
    /// Hard under the file, once cold and the skin is off?
    Hard,
    /// Does the magnet still hold?
    Magnet,
    /// Temper colour as expected?
    Colour,
}

impl Part {
    fn parse(text: Option<&str>) -> Result<Self, Faults> {
        match text {
            Some("spine") => Ok(Self::Spine),
            Some("tang") => Ok(Self::Tang),
            _ => Err(Faults::with_allowed(
                "part",
                "A torch softens one part.",
                "spine, tang",
            )),
        }
    }
}

impl Look {
    /// Every look, with its identifier.
    pub const ALL: [(&'static str, Self); 5] = [
        ("straight", Self::Straight),
        ("cracked", Self::Cracked),
        ("hard", Self::Hard),
        ("magnet", Self::Magnet),
        ("colour", Self::Colour),
    ];

    fn parse(text: Option<&str>) -> Result<Self, Faults> {
        let found = Self::ALL.iter().find(|l| Some(l.0) == text);
        found.map(|l| l.1).ok_or_else(|| {
            Faults::with_allowed(
                "look",
                "A check point looks at one thing.",
                Self::ALL.map(|l| l.0).join(", "),
            )
        })
    }
}

/// The kinds of step, in the order of the work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum StepKind {
    /// Slow cooling from heat.
    Anneal,
    /// Heat below critical.
    StressRelief,
    /// Heat above critical, cooled in air.
    Normalize,
    /// Short even heat, cooled in air.
    Refine,
    /// Anti-scale coating.
    Coat,
    /// Pouch of foil.
    Pouch,
    /// Clay laid on and dried.
    Clay,
    /// Even heat below critical.
    Preheat,
    /// Heat for hardening.
    Austenitize,
    /// Quench.
    Quench,
    /// Straightening.
    Straighten,
    /// Cooling before what follows.
    Cool,
    /// Cold treatment.
    SubZero,
    /// Temper.
    Temper,
    /// Torch on a part.
    TorchTemper,
    /// Stop and look.
    Check,
}

impl StepKind {
    /// Every kind.
    pub const ALL: [Self; 16] = [
        Self::Anneal,
        Self::StressRelief,
        Self::Normalize,
        Self::Refine,
        Self::Coat,
        Self::Pouch,
        Self::Clay,
        Self::Preheat,
        Self::Austenitize,
        Self::Quench,
        Self::Straighten,
        Self::Cool,
        Self::SubZero,
        Self::Temper,
        Self::TorchTemper,
        Self::Check,
    ];

    /// The identifier, as in the API.
    #[must_use]
    pub const fn id(self) -> &'static str {
        match self {
            Self::Anneal => "anneal",
            Self::StressRelief => "stress_relief",
            Self::Normalize => "normalize",
            Self::Refine => "refine",
            Self::Coat => "coat",
            Self::Pouch => "pouch",
            Self::Clay => "clay",
            Self::Preheat => "preheat",
            Self::Austenitize => "austenitize",
            Self::Quench => "quench",
            Self::Straighten => "straighten",
            Self::Cool => "cool",
            Self::SubZero => "sub_zero",
            Self::Temper => "temper",
            Self::TorchTemper => "torch_temper",
            Self::Check => "check",
        }
    }
}

fn no_wait() -> Seconds {
    Seconds::clamped(0.0)
}

/// A hold at a temperature.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Hold {
    /// Temperature.
    pub temperature_c: Celsius,
    /// How long, each time.
    pub lasts_s: Seconds,
    /// How often.
    pub times: u32,
}

impl Step {
    /// What it holds at, when it is a hold.
    #[must_use]
    pub const fn hold(&self) -> Option<Hold> {
        let (temperature_c, lasts_s, times) = match self {
            Self::Normalize {
                temperature_c,
                hold_s,
            }
            | Self::Anneal {
                temperature_c,
                hold_s,
            }
            | Self::StressRelief {
                temperature_c,
                hold_s,
            }
            | Self::Refine {
                temperature_c,
                hold_s,
            }
            | Self::Clay {
                temperature_c,
                hold_s,
            }
            | Self::Preheat {
                temperature_c,
                hold_s,
            }
            | Self::Cool {
                temperature_c,
                hold_s,
            }
            | Self::SubZero {
                temperature_c,
                hold_s,
                ..
            } => (*temperature_c, *hold_s, 1),
            Self::Austenitize {
                temperature_c,
                soak_s,
                ..
            } => (*temperature_c, *soak_s, 1),
            Self::Temper {
                temperature_c,
                hold_s,
                times,
                ..
            } => (*temperature_c, *hold_s, *times),
            Self::Coat {}
            | Self::Pouch {}
            | Self::Quench { .. }
            | Self::Straighten {}
            | Self::TorchTemper { .. }
            | Self::Check { .. } => return None,
        };
        Some(Hold {
            temperature_c,
            lasts_s,
            times,
        })
    }

    /// How many rounds a temper has, or baths a quench; one of everything else.
    #[must_use]
    pub fn rounds(&self) -> usize {
        match self {
            Self::Temper { times, .. } => *times as usize,
            Self::Quench { stages } => stages.len(),
            _ => 1,
        }
    }

    /// The kind.
    #[must_use]
    pub const fn kind(&self) -> StepKind {
        match self {
            Self::Anneal { .. } => StepKind::Anneal,
            Self::StressRelief { .. } => StepKind::StressRelief,
            Self::Normalize { .. } => StepKind::Normalize,
            Self::Refine { .. } => StepKind::Refine,
            Self::Coat { .. } => StepKind::Coat,
            Self::Pouch { .. } => StepKind::Pouch,
            Self::Clay { .. } => StepKind::Clay,
            Self::Preheat { .. } => StepKind::Preheat,
            Self::Austenitize { .. } => StepKind::Austenitize,
            Self::Quench { .. } => StepKind::Quench,
            Self::Straighten { .. } => StepKind::Straighten,
            Self::Cool { .. } => StepKind::Cool,
            Self::SubZero { .. } => StepKind::SubZero,
            Self::Temper { .. } => StepKind::Temper,
            Self::TorchTemper { .. } => StepKind::TorchTemper,
            Self::Check { .. } => StepKind::Check,
        }
    }
}

/// Temperature (°C) and hold (s) of every heat before the last quench, in order: normalizing, annealing
/// and austenitizing.
pub fn heats(steps: &[Step]) -> impl Iterator<Item = (f64, f64)> {
    let end = steps
        .iter()
        .rposition(|s| matches!(s, Step::Quench { .. }))
        .unwrap_or(steps.len());
    steps[..end].iter().filter_map(|step| match step {
        Step::Normalize {
            temperature_c,
            hold_s,
        }
        | Step::Refine {
            temperature_c,
            hold_s,
        }
        | Step::Anneal {
            temperature_c,
            hold_s,
        } => Some((temperature_c.value(), hold_s.value())),
        Step::Austenitize {
            temperature_c,
            soak_s,
            ..
        } => Some((temperature_c.value(), soak_s.value())),
        _ => None,
    })
}

/// A step as written by a caller: every field that any kind may carry.
#[derive(Debug, Clone, Default, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StepDraft {
    /// `anneal`, `stress_relief`, `normalize`, `refine`, `coat`, `pouch`, `clay`, `preheat`,
    /// `austenitize`, `quench`, `straighten`, `cool`, `sub_zero`, `temper`, `torch_temper` or `check`.
    pub kind: String,
    /// Temperature, −200 to 1300 °C; every kind that heats or cools but `quench`.
    #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
    pub temperature_c: Option<f64>,
    /// Hold, s; every kind with a temperature but `austenitize` and `torch_temper`.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
    pub hold_s: Option<f64>,
    /// Soak of `austenitize`, s.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
    pub soak_s: Option<f64>,
    /// Wait before `sub_zero`, s; none when left out.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
    pub wait_s: Option<f64>,
    /// Repeats of `temper` or `normalize`, 1 to 12; once when left out.
    #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 12))]
    pub times: Option<u32>,
    /// Stages of `quench`, 1 to 6.
    pub stages: Option<Vec<StageDraft>>,
    /// Kiln or forge of `austenitize`, oven of `temper`.
    pub station_id: Option<Uuid>,
    /// Part of `torch_temper`: `spine` or `tang`.
    pub part: Option<String>,
    /// Look of `check`: `straight`, `cracked`, `hard`, `magnet` or `colour`.
    pub look: Option<String>,
}

/// A quench stage as written by a caller.
#[derive(Debug, Clone, Default, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StageDraft {
    /// Medium, for example `fast_oil`.
    pub medium: String,
    /// Bath temperature, °C; the medium's usual one when left out.
    #[cfg_attr(feature = "schema", schema(minimum = -20, maximum = 230))]
    pub bath_c: Option<f64>,
    /// Seconds before the next stage; not on the last.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
    pub for_s: Option<f64>,
    /// `still`, `moved` or `strong`; moved when left out.
    pub agitation: Option<String>,
    /// Only the edge goes in, this deep, 0.01 to 1000 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 0.01, maximum = 1000))]
    pub edge_depth_mm: Option<f64>,
    /// Only this much goes in, from the tip, 0.01 to 1000 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 0.01, maximum = 1000))]
    pub tip_length_mm: Option<f64>,
    /// Volume of the bath, 0.5 to 2000 l; endless when left out.
    #[cfg_attr(feature = "schema", schema(minimum = 0.5, maximum = 2000))]
    pub litres: Option<f64>,
    /// Blades quenched at once, 1 to 50.
    #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 50))]
    pub blades: Option<u32>,
}

/// Why stored steps cannot be read. They are kept as they are.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, thiserror::Error)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Unreadable {
    /// A format of the future, or of nothing known.
    #[error("format {format} is not one of 1 to {newest}")]
    Format {
        /// The format they were saved in.
        format: i32,
        /// The newest that this version reads.
        newest: i32,
    },
    /// A step that is none.
    #[error("step {number}: {detail}")]
    Step {
        /// Its number, from 1.
        number: usize,
        /// What the reader found.
        detail: String,
    },
}

/// Steps as they were stored under a format number, of this version or an older one.
///
/// # Errors
/// See [`Unreadable`].
pub fn read_steps<'de, D: serde::Deserializer<'de>>(
    format: i32,
    stored: impl IntoIterator<Item = D>,
) -> Result<Vec<Step>, Unreadable> {
    if !(1..=FORMAT).contains(&format) {
        return Err(Unreadable::Format {
            format,
            newest: FORMAT,
        });
    }
    // Form 1 had fewer kinds of step; each reads as it is.
    stored
        .into_iter()
        .enumerate()
        .map(|(i, step)| {
            Step::deserialize(step).map_err(|e| Unreadable::Step {
                number: i + 1,
                detail: e.to_string(),
            })
        })
        .collect()
}

impl StepDraft {
    /// Checks one step; fields are relative to it.
    ///
    /// # Errors
    /// Unknown kind, a missing or impossible number, a field that this kind does not have.
    pub fn parse(&self) -> Result<Step, Faults> {
        let mut c = Checker::default();
        let (takes, known): (&[&str], bool) = match self.kind.as_str() {
            "normalize" => (&["temperature_c", "hold_s", "times"], true),
            "anneal" | "stress_relief" | "refine" | "clay" | "preheat" | "cool" => {
                (&["temperature_c", "hold_s"], true)
            }
            "coat" | "pouch" | "straighten" => (&[], true),
            "torch_temper" => (&["temperature_c", "part"], true),
            "check" => (&["look"], true),
            "austenitize" => (&["temperature_c", "soak_s", "station_id"], true),
            "quench" => (&["stages"], true),
            "sub_zero" => (&["temperature_c", "hold_s", "wait_s"], true),
            "temper" => (&["temperature_c", "hold_s", "times", "station_id"], true),
            _ => (&[], false),
        };
        if !known {
            return Err(Faults::with_allowed(
                "kind",
                format!("There is no step called {}.", self.kind),
                StepKind::ALL.map(StepKind::id).join(", "),
            ));
        }
        for (field, given) in [
            ("temperature_c", self.temperature_c.is_some()),
            ("hold_s", self.hold_s.is_some()),
            ("soak_s", self.soak_s.is_some()),
            ("wait_s", self.wait_s.is_some()),
            ("times", self.times.is_some()),
            ("stages", self.stages.is_some()),
            ("station_id", self.station_id.is_some()),
            ("part", self.part.is_some()),
            ("look", self.look.is_some()),
        ] {
            if given && !takes.contains(&field) {
                c.refuse(
                    field,
                    format!("A step of kind {} has no {field}.", self.kind),
                );
            }
        }
        if let Some(times) = self.times.filter(|t| !(1..=MAX_TIMES).contains(t)) {
            c.refuse_allowing(
                "times",
                format!("{times} times is not possible."),
                "1 to 12",
            );
        }
        if self.kind == "quench" {
            let stages = c.take(self.parse_stages());
            return c.finish(stages.map(|stages| Step::Quench { stages }));
        }
        let plain = match self.kind.as_str() {
            "coat" => Some(Step::Coat {}),
            "pouch" => Some(Step::Pouch {}),
            "straighten" => Some(Step::Straighten {}),
            "check" => c
                .take(Look::parse(self.look.as_deref()))
                .map(|look| Step::Check { look }),
            "torch_temper" => c
                .take(Celsius::need("temperature_c", self.temperature_c))
                .zip(c.take(Part::parse(self.part.as_deref())))
                .map(|(temperature_c, part)| Step::TorchTemper {
                    temperature_c,
                    part,
                }),
            _ => None,
        };
        if plain.is_some() || matches!(self.kind.as_str(), "check" | "torch_temper") {
            return c.finish(plain);
        }
        let temperature = c.take(Celsius::need("temperature_c", self.temperature_c));
        let time_field = if self.kind == "austenitize" {
            "soak_s"
        } else {
            "hold_s"
        };
        let time = if self.kind == "austenitize" {
            self.soak_s
        } else {
            self.hold_s
        };
        // These need no hold: the blade is taken out once it is even.
        let time = match self.kind.as_str() {
            "normalize" | "refine" => time.or(Some(60.0)),
            "cool" => time.or(Some(0.0)),
            _ => time,
        };
        let time = c.take(Seconds::need(time_field, time));
        if matches!(self.kind.as_str(), "temper") && time.is_some_and(|t| t.value() < 1.0) {
            let range = (1.0, Seconds::RANGE.1);
            c.refuse_outside("hold_s", "A temper needs some time.", range, Unit::Second);
        }
        let wait = c.take(Seconds::check("wait_s", self.wait_s.unwrap_or(0.0)));
        let step =
            temperature
                .zip(time)
                .zip(wait)
                .map(|((temperature_c, time), wait_s)| match self.kind.as_str() {
                    "normalize" => Step::Normalize {
                        temperature_c,
                        hold_s: time,
                    },
                    "anneal" => Step::Anneal {
                        temperature_c,
                        hold_s: time,
                    },
                    "refine" => Step::Refine {
                        temperature_c,
                        hold_s: time,
                    },
                    "clay" => Step::Clay {
                        temperature_c,
                        hold_s: time,
                    },
                    "preheat" => Step::Preheat {
                        temperature_c,
                        hold_s: time,
                    },
                    "cool" => Step::Cool {
                        temperature_c,
                        hold_s: time,
                    },
                    "stress_relief" => Step::StressRelief {
                        temperature_c,
                        hold_s: time,
                    },
                    "austenitize" => Step::Austenitize {
                        temperature_c,
                        soak_s: time,
                        station_id: self.station_id,
                    },
                    "sub_zero" => Step::SubZero {
                        temperature_c,
                        hold_s: time,
                        wait_s,
                    },
                    _ => Step::Temper {
                        temperature_c,
                        hold_s: time,
                        times: self.times.unwrap_or(1),
                        station_id: self.station_id,
                    },
                });
        c.finish(step)
    }

    fn parse_stages(&self) -> Result<Vec<Stage>, Faults> {
        let mut c = Checker::default();
        let drafts = self.stages.as_deref().unwrap_or_default();
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
            stages.extend(
                c.take(
                    draft
                        .parse(last)
                        .map_err(|f| f.under(&format!("stages[{i}]"))),
                ),
            );
        }
        c.finish(Some(stages))
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
                Medium::ALL.map(Medium::id).join(", "),
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
        let mut length = |field: &str, value: Option<f64>| {
            value.and_then(|v| c.take(Millimetres::check(field, v)))
        };
        let edge_depth_mm = length("edge_depth_mm", self.edge_depth_mm);
        let tip_length_mm = length("tip_length_mm", self.tip_length_mm);
        let litres = self.litres.and_then(|v| c.take(Litres::check("litres", v)));
        if let Some(blades) = self.blades.filter(|b| !(1..=50).contains(b)) {
            c.refuse_allowing(
                "blades",
                format!("{blades} blades at once is not possible."),
                "1 to 50",
            );
        }
        c.finish(Some(Stage {
            medium,
            bath_c: Celsius::clamped(bath),
            for_s,
            agitation,
            edge_depth_mm,
            tip_length_mm,
            litres,
            blades: self.blades,
        }))
    }
}
