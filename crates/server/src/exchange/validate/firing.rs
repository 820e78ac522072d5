//! What happened at the fire, and what was read and found after it.

use super::{Ids, v7_at};
use crate::body::text;
use crate::exchange::format::{EventFile, FindingFile, FiringFile, ReadingFile};
use std::collections::HashMap;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::prediction::Prediction;
use vatten_core::prediction::made::Made;
use vatten_core::process::sighting::Sighting;
use vatten_core::process::step::Step;
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_core::record::firing::{Deviation, FiringEvent};
use vatten_core::record::reading::{Values, When};
use vatten_store::finding::NewFinding;
use vatten_store::firing::Past;
use vatten_store::reading::NewReading;

/// The events of a firing under new ids. An older file undoes by position: what it took back is the event
/// that confirmed that action last.
pub(super) fn events_of(
    files: &[EventFile],
    shift: Duration,
    stations: &HashMap<Uuid, Uuid>,
) -> Result<Vec<Past>, Faults> {
    let mut ids: HashMap<Uuid, Uuid> = HashMap::new();
    let mut confirmed: HashMap<u64, Uuid> = HashMap::new();
    let mut past: Vec<Past> = Vec::with_capacity(files.len());
    for (i, file) in files.iter().enumerate() {
        let bad = |message: String| Faults::one(format!("events[{i}].what"), message);
        let at = file.at + shift;
        let id = v7_at(at, i);
        if let Some(known) = file.id {
            ids.insert(known, id);
        }
        let what = &file.what;
        let position = what.get("action").or_else(|| what.get("beat"));
        let action = position.and_then(serde_json::Value::as_u64);
        let what = match (what.get("kind").and_then(|k| k.as_str()), action) {
            (Some("undo"), Some(action)) => {
                let event = confirmed.get(&action).copied();
                let event =
                    event.ok_or_else(|| bad("There is nothing to undo here.".to_owned()))?;
                FiringEvent::Undo { event }
            }
            (kind, action) => {
                if let (Some("confirm"), Some(action)) = (kind, action) {
                    confirmed.insert(action, id);
                }
                serde_json::from_value(what.clone()).map_err(|e| bad(e.to_string()))?
            }
        };
        let what = match what {
            FiringEvent::Undo { event } => FiringEvent::Undo {
                event: ids.get(&event).copied().unwrap_or(event),
            },
            FiringEvent::Say {
                step,
                round,
                temperature_c,
                by,
                medium,
                lasted_s,
                note,
            } => FiringEvent::Say {
                step,
                round,
                temperature_c,
                by: by.map(|by| Sighting {
                    eye_id: by.eye_id.and_then(|id| stations.get(&id).copied()),
                    ..by
                }),
                medium,
                lasted_s,
                note,
            },
            FiringEvent::Deviate {
                how: Deviation::Extra { step },
            } => FiringEvent::Deviate {
                how: Deviation::Extra {
                    step: at_stations(step, stations),
                },
            },
            other => other,
        };
        past.push(Past {
            id,
            what,
            at,
            device_at: file.device_at.map(|at| at + shift),
        });
    }
    Ok(past)
}

/// A step that was put in at the fire, at the stations under their new ids.
fn at_stations(mut step: Step, stations: &HashMap<Uuid, Uuid>) -> Step {
    let moved = |id: &Uuid| stations.get(id).copied();
    if let Step::Austenitize { station_id, .. } | Step::Temper { station_id, .. } = &mut step {
        *station_id = station_id.as_ref().and_then(moved);
    }
    if let Some((by, _)) = step.judged()
        && let Some(by) = by
    {
        by.eye_id = by.eye_id.as_ref().and_then(moved);
    }
    step
}

/// A firing that was checked.
pub struct ReadyFiring {
    /// When it started.
    pub started_at: OffsetDateTime,
    /// Made anew where the file has none.
    pub prediction: Option<Prediction>,
    /// The blade as it went in.
    pub made: Made,
    /// The file says which checks were in force.
    pub has_checks: bool,
    /// What happened.
    pub events: Vec<Past>,
    /// Readings; with each, when it was withdrawn.
    pub readings: Vec<(NewReading, Option<OffsetDateTime>)>,
    /// Findings; with each, when it was withdrawn.
    pub findings: Vec<(NewFinding, Option<OffsetDateTime>)>,
}

impl FiringFile {
    /// Its readings on a blade of `length_mm`; with each, when it was withdrawn.
    pub(super) fn check_readings(
        &self,
        ids: &Ids,
        shift: Duration,
        length_mm: f64,
    ) -> Result<Vec<(NewReading, Option<OffsetDateTime>)>, Faults> {
        let mut c = Checker::default();
        let mut readings = Vec::with_capacity(self.readings.len());
        for (i, file) in self.readings.iter().enumerate() {
            let at = file.taken_at + shift;
            let new = file.check(ids, v7_at(at, i), at, length_mm);
            let new = c.take(new.map_err(|f| f.under(&format!("firing.readings[{i}]"))));
            readings.extend(new.map(|new| (new, file.withdrawn.then_some(at))));
        }
        c.finish(Some(readings))
    }

    /// What else was found; with each, when it was withdrawn.
    pub(super) fn check_findings(
        &self,
        shift: Duration,
    ) -> Result<Vec<(NewFinding, Option<OffsetDateTime>)>, Faults> {
        let mut c = Checker::default();
        let mut findings = Vec::with_capacity(self.findings.len());
        for (i, file) in self.findings.iter().enumerate() {
            let at = file.found_at + shift;
            let new = file.check(v7_at(at, i), at);
            let new = c.take(new.map_err(|f| f.under(&format!("firing.findings[{i}]"))));
            findings.extend(new.map(|new| (new, file.withdrawn.then_some(at))));
        }
        c.finish(Some(findings))
    }
}

impl ReadingFile {
    pub(super) fn check(
        &self,
        ids: &Ids,
        id: Uuid,
        taken_at: OffsetDateTime,
        length_mm: f64,
    ) -> Result<NewReading, Faults> {
        let mut c = Checker::default();
        let values = c.take(Values::parse(&self.values_hrc));
        let note = c.take(text("note", &self.note, (0, 500)));
        let stage = When::parse(&self.stage);
        if stage.is_none() {
            let message = "There is no such stage.";
            c.refuse_allowing("stage", message, "as_quenched, tempered");
        }
        if let Some(values) = &values {
            let fits = self.taken.check(values.count(), length_mm);
            c.take(fits.map_err(|f| f.under("taken")));
        }
        let tester_id = self.tester_id.and_then(|id| ids.stations.get(&id).copied());
        if tester_id.is_none() && self.tester_id.is_some() && ids.complete {
            c.refuse("tester_id", "This is no station of the file.");
        }
        let parts = values.zip(note).zip(stage);
        c.finish(parts.map(|((values, note), stage)| NewReading {
            id,
            stage,
            values,
            tester_id,
            note,
            taken_at,
            taken: self.taken.clone(),
        }))
    }
}

impl FindingFile {
    pub(super) fn check(&self, id: Uuid, found_at: OffsetDateTime) -> Result<NewFinding, Faults> {
        let mut c = Checker::default();
        let fits = c.take(self.found.check().map_err(|f| f.under("found")));
        let note = c.take(text("note", &self.note, (0, 500)));
        c.finish(fits.zip(note).map(|((), note)| NewFinding {
            id,
            found: self.found.clone(),
            note,
            found_at,
        }))
    }
}
