//! What a device sends of a firing.

use crate::body::text;
use serde::Deserialize;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::material::medium::Medium;
use vatten_core::process::operator::Operator;
use vatten_core::process::sighting::SightingDraft;
use vatten_core::process::step_draft::{ClampDraft, StepDraft};
use vatten_core::quantity::units::{Celsius, Quantity, Seconds};
use vatten_core::quantity::validation::{Checker, Faults, ids};
use vatten_core::record::finding::Finding;
use vatten_core::record::firing::{Deviation, End, FiringEvent};

/// In what way a firing goes on otherwise than planned; steps are named by their number, rounds from 0.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "deviation", rename_all = "snake_case", deny_unknown_fields)]
pub enum DeviationBody {
    /// A step is left out, or what is left of it from a round on.
    LeftOut {
        /// The step.
        step: usize,
        /// The first round or bath that is not done; the whole step when left out.
        round: Option<usize>,
    },
    /// Steps that follow each other are done once more, next.
    Again {
        /// The first of them.
        from: usize,
        /// The last of them.
        to: usize,
    },
    /// A step that was not planned comes next.
    Extra {
        /// The step.
        step: StepDraft,
    },
    /// A step that was planned for later comes next.
    Earlier {
        /// The step.
        step: usize,
    },
    /// A hold or a bath is to last so long.
    Timed {
        /// The step.
        step: usize,
        /// Which round or bath; the first when left out.
        #[serde(default)]
        round: usize,
        /// How long, s.
        #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
        lasts_s: f64,
    },
    /// A heat, a temper or a cold that is still to come is to be at another temperature.
    Heat {
        /// The step.
        step: usize,
        /// Its temperature, °C.
        #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
        temperature_c: f64,
    },
    /// It is clamped to a straight bar in a temper that is not over.
    Clamp {
        /// The step.
        step: usize,
        /// How far past straight a shim holds it, 0.01 to 20 mm; straight when left out.
        #[cfg_attr(feature = "schema", schema(minimum = 0.01, maximum = 20))]
        shim_mm: Option<f64>,
    },
}

impl DeviationBody {
    fn check(&self) -> Result<Deviation, Faults> {
        Ok(match self {
            Self::LeftOut { step, round } => Deviation::LeftOut {
                step: *step,
                round: *round,
            },
            Self::Again { from, to } => Deviation::Again {
                from: *from,
                to: *to,
            },
            Self::Extra { step } => {
                let mut steps = step.parse().map_err(|f| f.under("step"))?;
                match (steps.pop(), steps.is_empty()) {
                    (Some(step), true) => Deviation::Extra { step },
                    _ => return Err(Faults::one("step.times", "One step is put in at a time.")),
                }
            }
            Self::Earlier { step } => Deviation::Earlier { step: *step },
            Self::Timed {
                step,
                round,
                lasts_s,
            } => Deviation::Timed {
                step: *step,
                round: *round,
                lasts_s: Seconds::check("lasts_s", *lasts_s)?,
            },
            Self::Heat {
                step,
                temperature_c,
            } => Deviation::Heat {
                step: *step,
                temperature_c: Celsius::check("temperature_c", *temperature_c)?,
            },
            Self::Clamp { step, shim_mm } => Deviation::Clamp {
                step: *step,
                shim_mm: ClampDraft { shim_mm: *shim_mm }.parse()?.shim_mm,
            },
        })
    }
}

/// A device whose clock was never set is not believed further than this.
const MOST_AHEAD: Duration = Duration::days(3653);

/// Something that happened.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct EventBody {
    /// Id made by the client (UUID version 7): the same event sent twice happens once.
    pub id: Option<Uuid>,
    /// `confirm`, `undo`, `say`, `deviate`, `found`, `operator` or `close`.
    pub kind: String,
    /// Position of the action, for `confirm`. Presses that wait on a device since an older version say `beat`.
    #[serde(alias = "beat")]
    pub action: Option<usize>,
    /// The event that is taken back, for `undo`.
    pub event: Option<Uuid>,
    /// Number of the step, for `say`.
    pub step: Option<usize>,
    /// Round of a temper or bath of a quench, from 0, for `say`; all rounds and the first bath when left out.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 11))]
    pub round: Option<usize>,
    /// Real temperature, for `say`, −200 to 1300 °C.
    #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
    pub temperature_c: Option<f64>,
    /// How hot it was by eye or magnet, for `say`; with a temperature beside it, what an eye called it.
    pub by: Option<SightingDraft>,
    /// The bath it really went into, for `say` of a quench.
    pub medium: Option<String>,
    /// Real soak, hold or first quench stage, for `say`, s.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
    pub lasted_s: Option<f64>,
    /// In what way it goes on otherwise than planned, for `deviate`.
    pub how: Option<DeviationBody>,
    /// What was found, for `found`.
    pub found: Option<Finding>,
    /// A remark, for `say`.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(max_length = 500))]
    pub note: String,
    /// How it ended, for `close`: `done`, `abandoned` or `mistake`; done when left out.
    pub end: Option<String>,
    /// Who quenches, for `operator`.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 40))]
    pub name: Option<String>,
    /// When, by the clock of the device; now when left out.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub at: Option<OffsetDateTime>,
    /// How far the server's clock was ahead of the device's when that was last measured, ms: with it `at` is
    /// turned into the server's time.
    pub ahead_ms: Option<i64>,
    /// When it is sent, by the clock of the device: tells the same where nothing was measured.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub sent_at: Option<OffsetDateTime>,
}

impl EventBody {
    /// When it happened by the server's clock, and by the device's where that was told. A clock that is wrong is
    /// no reason to refuse a press; nothing happened later than now.
    #[must_use]
    pub fn times(&self, now: OffsetDateTime) -> (OffsetDateTime, Option<OffsetDateTime>) {
        let Some(at) = self.at else {
            return (now, None);
        };
        let ahead = match (self.ahead_ms, self.sent_at) {
            (Some(ms), _) => Duration::milliseconds(ms),
            (None, Some(sent_at)) => now - sent_at,
            (None, None) => Duration::ZERO,
        };
        let ahead = ahead.clamp(-MOST_AHEAD, MOST_AHEAD);
        let really = at.checked_add(ahead).unwrap_or(now).min(now);
        let by_device = self.ahead_ms.is_some() || self.sent_at.is_some() || really != at;
        (really, by_device.then_some(at))
    }

    /// What it says.
    ///
    /// # Errors
    /// Names the field and what is allowed there.
    pub fn check(&self) -> Result<FiringEvent, Faults> {
        let mut c = Checker::default();
        let note = c.take(text("note", &self.note, (0, 500)));
        let temperature_c = self
            .temperature_c
            .and_then(|t| c.take(Celsius::check("temperature_c", t)));
        let lasted_s = self
            .lasted_s
            .and_then(|s| c.take(Seconds::check("lasted_s", s)));
        let by = self
            .by
            .as_ref()
            .and_then(|by| c.take(by.parse().map_err(|f| f.under("by"))));
        let medium = self.medium.as_deref().and_then(|name| {
            let known = Medium::parse(name);
            c.take(known.ok_or_else(|| {
                Faults::with_allowed("medium", "There is no such bath.", ids::<Medium>())
            }))
        });
        let needed = |field: &str| Err(Faults::one(field, "This is needed."));
        let what = match self.kind.as_str() {
            "confirm" => match self.action {
                Some(action) => Some(FiringEvent::Confirm { action }),
                None => c.take(needed("action")),
            },
            "undo" => match self.event {
                Some(event) => Some(FiringEvent::Undo { event }),
                None => c.take(needed("event")),
            },
            "say" if self.step.is_none() => c.take(needed("step")),
            "say" => note.zip(self.step).map(|(note, step)| FiringEvent::Say {
                step,
                round: self.round,
                temperature_c,
                by,
                medium,
                lasted_s,
                note,
            }),
            "deviate" => match &self.how {
                Some(how) => c
                    .take(how.check().map_err(|f| f.under("how")))
                    .map(|how| FiringEvent::Deviate { how }),
                None => c.take(needed("how")),
            },
            "found" => match &self.found {
                Some(found) => c
                    .take(found.check().map_err(|f| f.under("found")))
                    .map(|()| FiringEvent::Found {
                        found: found.clone(),
                    }),
                None => c.take(needed("found")),
            },
            "operator" | "hand" => c
                .take(Operator::parse(self.name.as_deref().unwrap_or_default()))
                .map(|name| FiringEvent::Operator { name }),
            "close" => match self.end.as_deref() {
                None => Some(FiringEvent::Close { end: End::Done }),
                Some(end) => c
                    .take(End::parse(end))
                    .map(|end| FiringEvent::Close { end }),
            },
            _ => c.take(Err(Faults::with_allowed(
                "kind",
                "There is no such event.",
                "confirm, undo, say, deviate, found, operator, close",
            ))),
        };
        c.finish(what)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use time::macros::datetime;

    const NOW: OffsetDateTime = datetime!(2026-11-29 12:00 UTC);

    fn body(at: OffsetDateTime) -> EventBody {
        let at = at.format(&time::format_description::well_known::Rfc3339);
        let body = serde_json::json!({ "kind": "close", "at": at.unwrap() });
        serde_json::from_value(body).unwrap()
    }

    #[rstest]
    // A press two days ago on a device 20 minutes fast, measured or told by when it was sent.
    #[case(Some(-1_200_000), None, datetime!(2026-11-27 12:20 UTC), datetime!(2026-11-27 12:00 UTC))]
    #[case(None, Some(datetime!(2026-11-29 12:20 UTC)), datetime!(2026-11-27 12:20 UTC), datetime!(2026-11-27 12:00 UTC))]
    // What was measured at the press counts before what the clock says now.
    #[case(Some(0), Some(datetime!(2026-11-29 13:00 UTC)), datetime!(2026-11-27 12:20 UTC), datetime!(2026-11-27 12:20 UTC))]
    // Nothing happened later than now, and nothing is refused for it.
    #[case(None, None, datetime!(2026-11-29 14:00 UTC), NOW)]
    #[case(Some(i64::MAX), None, datetime!(2026-11-29 11:00 UTC), NOW)]
    fn a_press_is_taken_by_the_servers_clock_and_keeps_its_own(
        #[case] ahead_ms: Option<i64>,
        #[case] sent_at: Option<OffsetDateTime>,
        #[case] at: OffsetDateTime,
        #[case] really: OffsetDateTime,
    ) {
        let body = EventBody {
            ahead_ms,
            sent_at,
            ..body(at)
        };
        assert_eq!(body.times(NOW), (really, Some(at)));
    }

    #[test]
    fn a_clock_that_is_right_is_not_told_twice() {
        let at = datetime!(2026-11-29 11:58 UTC);
        assert_eq!(body(at).times(NOW), (at, None));
    }
}
