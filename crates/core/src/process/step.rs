//! A step of a heat treatment, as it is kept.

use crate::material::medium::Medium;
use crate::process::furnace::Furnace;
use crate::process::heat_transfer::{Agitation, Own};
use crate::process::manner::{Bed, Clamp, ColdBath, Cooled, Entry, Plates};
use crate::process::sighting::Sighting;
use crate::process::temper_colour::TemperSighting;
use crate::quantity::units::{Celsius, Litres, Millimetres, Quantity, Seconds};
use crate::quantity::validation::{Faults, named};
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
    /// Time in air on the way into it, 0 to 60 s; as usual when left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub transfer_s: Option<Seconds>,
    /// How it goes in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub entry: Option<Entry>,
    /// The plates, where it is quenched between plates: aluminium of an inch when left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub plates: Option<Plates>,
    /// The tank of the shop, where the plan names one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tank_id: Option<Uuid>,
    /// What that tank does, where it was measured: filled in from the shop's tanks, never written in a plan.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub own: Option<Own>,
}

/// From the fire into the bath takes about this when nothing is said, s.
pub const USUAL_TRANSFER_S: f64 = 2.0;
/// Shortest and longest transfer that a quench is computed with, s.
pub const TRANSFER_RANGE_S: (f64, f64) = (0.0, 60.0);

impl Stage {
    /// Heat that warms what one blade has of the bath by a degree, J/K; none when it is as good as endless.
    #[must_use]
    pub fn capacity_j_k(&self) -> Option<f64> {
        let litres = self.litres.filter(|_| self.medium.is_liquid())?;
        let per_litre = if self.medium.is_water() {
            4180.0
        } else {
            1750.0
        };
        Some(litres.value() * per_litre / f64::from(self.blades.unwrap_or(1).max(1)))
    }

    /// The whole blade in a medium at its usual temperature, until cold.
    #[must_use]
    pub fn until_cold(medium: Medium) -> Self {
        Self {
            medium,
            bath_c: medium.usual_bath(),
            for_s: None,
            agitation: None,
            edge_depth_mm: None,
            tip_length_mm: None,
            litres: None,
            blades: None,
            transfer_s: None,
            entry: None,
            plates: None,
            tank_id: None,
            own: None,
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
        /// How it is judged, where not by an instrument; the temperature is then what is usual for it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<Sighting>,
    },
    /// Heat and cool slowly: soft for the drill.
    Anneal {
        /// Temperature.
        temperature_c: Celsius,
        /// Hold once at heat.
        hold_s: Seconds,
        /// How it is judged, where not by an instrument; the temperature is then what is usual for it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<Sighting>,
        /// In what it cools; the fire that is shut down when left out.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        bed: Option<Bed>,
    },
    /// Heat below critical: takes out the strain of forging and grinding.
    StressRelief {
        /// Temperature.
        temperature_c: Celsius,
        /// Hold once at heat.
        hold_s: Seconds,
        /// How it is judged, where not by an instrument; the temperature is then what is usual for it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<Sighting>,
    },
    /// Short even heat and cool in air, to start fine grains once more.
    Refine {
        /// Temperature.
        temperature_c: Celsius,
        /// Hold once at heat.
        hold_s: Seconds,
        /// How it is judged, where not by an instrument; the temperature is then what is usual for it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<Sighting>,
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
        /// How it is judged, where not by an instrument; the temperature is then what is usual for it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<Sighting>,
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
        /// How it is judged, where not by an instrument; the temperature is then what is usual for it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<Sighting>,
        /// The kind of fire; as the station is, or a kiln, when left out.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        fire: Option<Furnace>,
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
        /// What makes the cold.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        bath: Option<ColdBath>,
        /// How far it had warmed up again by the end, where nobody kept it cold; what turned has turned by then.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        until_c: Option<Celsius>,
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
        /// Clamped to a straight bar.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        clamp: Option<Clamp>,
        /// In what it cools after each; air when left out.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        cooled: Option<Cooled>,
        /// Blades in the oven at once; one when left out.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        blades: Option<u32>,
        /// The colour it is judged by, where not by an instrument; the temperature is then what is usual for it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<TemperSighting>,
    },
    /// Soften a part with a torch, the edge in water.
    TorchTemper {
        /// What the part reaches.
        temperature_c: Celsius,
        /// Which part.
        part: Part,
        /// The colour it is judged by, where not by an instrument; the temperature is then what is usual for it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<TemperSighting>,
    },
    /// The maker's mark, stamped hot.
    Stamp {},
    /// Stop and look.
    Check {
        /// At what.
        look: Look,
    },
}

/// What a torch softens.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Part {
    /// The back of the blade.
    Spine,
    /// The tang and shoulders.
    Tang,
}

/// What a check point looks at.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
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
    pub(super) fn parse(text: Option<&str>) -> Result<Self, Faults> {
        named("part", text.unwrap_or_default(), || {
            "A torch softens one part.".to_owned()
        })
    }
}

impl Look {
    /// Every look, with its identifier.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    pub(super) fn parse(text: Option<&str>) -> Result<Self, Faults> {
        named("look", text.unwrap_or_default(), || {
            "A check point looks at one thing.".to_owned()
        })
    }
}

/// The kinds of step, in the order of the work.
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
    /// The maker's mark, stamped hot.
    Stamp,
    /// Stop and look.
    Check,
}

impl StepKind {
    /// Every kind.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// The identifier, as in the API.
    #[must_use]
    pub fn id(self) -> &'static str {
        self.into()
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
                ..
            }
            | Self::Anneal {
                temperature_c,
                hold_s,
                ..
            }
            | Self::StressRelief {
                temperature_c,
                hold_s,
                ..
            }
            | Self::Refine {
                temperature_c,
                hold_s,
                ..
            }
            | Self::Clay {
                temperature_c,
                hold_s,
            }
            | Self::Preheat {
                temperature_c,
                hold_s,
                ..
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
            | Self::Stamp {}
            | Self::Check { .. } => return None,
        };
        Some(Hold {
            temperature_c,
            lasts_s,
            times,
        })
    }

    /// The fire or oven it names.
    #[must_use]
    pub const fn station_id(&self) -> Option<Uuid> {
        match self {
            Self::Austenitize { station_id, .. } | Self::Temper { station_id, .. } => *station_id,
            _ => None,
        }
    }

    /// How its heat is judged, where not by an instrument.
    #[must_use]
    pub const fn sighting(&self) -> Option<Sighting> {
        match self {
            Self::Normalize { by, .. }
            | Self::Anneal { by, .. }
            | Self::StressRelief { by, .. }
            | Self::Refine { by, .. }
            | Self::Preheat { by, .. }
            | Self::Austenitize { by, .. } => *by,
            _ => None,
        }
    }

    /// The colour that judges it, of a temper in an oven or by a torch; none where an instrument does.
    #[must_use]
    pub const fn temper_sighting(&self) -> Option<TemperSighting> {
        match self {
            Self::Temper { by, .. } | Self::TorchTemper { by, .. } => *by,
            _ => None,
        }
    }

    /// Sets what it is held at, or how warm a bath of it is, inside the range of that bath; of a step that has no
    /// temperature nothing changes.
    pub fn set_temperature(&mut self, round: usize, t: Celsius) {
        match self {
            Self::Normalize { temperature_c, .. }
            | Self::Anneal { temperature_c, .. }
            | Self::StressRelief { temperature_c, .. }
            | Self::Refine { temperature_c, .. }
            | Self::Clay { temperature_c, .. }
            | Self::Preheat { temperature_c, .. }
            | Self::Cool { temperature_c, .. }
            | Self::Austenitize { temperature_c, .. }
            | Self::SubZero { temperature_c, .. } => *temperature_c = t,
            Self::TorchTemper {
                temperature_c, by, ..
            }
            | Self::Temper {
                temperature_c, by, ..
            } => {
                *temperature_c = t;
                // A temper in degrees is by an instrument.
                *by = None;
            }
            Self::Quench { stages } => {
                if let Some(stage) = stages.get_mut(round) {
                    let (low, high) = stage.medium.bath_range_c();
                    stage.bath_c = Celsius::clamped(t.value().clamp(low, high));
                }
            }
            Self::Coat {}
            | Self::Pouch {}
            | Self::Straighten {}
            | Self::Stamp {}
            | Self::Check { .. } => {}
        }
    }

    /// What judges its heat, and the heat, to be set; none of a step that no eye judges.
    pub const fn judged(&mut self) -> Option<(&mut Option<Sighting>, &mut Celsius)> {
        match self {
            Self::Normalize {
                by, temperature_c, ..
            }
            | Self::Anneal {
                by, temperature_c, ..
            }
            | Self::StressRelief {
                by, temperature_c, ..
            }
            | Self::Refine {
                by, temperature_c, ..
            }
            | Self::Preheat {
                by, temperature_c, ..
            }
            | Self::Austenitize {
                by, temperature_c, ..
            } => Some((by, temperature_c)),
            _ => None,
        }
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
            Self::Stamp {} => StepKind::Stamp,
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
            ..
        }
        | Step::Refine {
            temperature_c,
            hold_s,
            ..
        }
        | Step::Anneal {
            temperature_c,
            hold_s,
            ..
        } => Some((temperature_c.value(), hold_s.value())),
        Step::Austenitize {
            temperature_c,
            soak_s,
            ..
        } => Some((temperature_c.value(), soak_s.value())),
        _ => None,
    })
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
