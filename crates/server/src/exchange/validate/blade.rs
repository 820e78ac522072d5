//! The blades of a file and their plans.

use super::firing::{ReadyFiring, events_of};
use super::{Ids, drafts_of, reference, v7_at, with_stations};
use crate::body::{text, wanted_hrc};
use crate::exchange::format::{BladeFile, ClayFile, GeometryFile, PlanFile};
use crate::routes::clay::check_wanted;
use time::{Duration, OffsetDateTime};
use vatten_core::geometry::blade::{Blade as Geometry, BladeDraft};
use vatten_core::geometry::clay::Clay;
use vatten_core::material::purpose::Purpose;
use vatten_core::prediction::made::MadeOf;
use vatten_core::process::plan::Plan;
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_core::record::firing::{self as rules};
use vatten_store::blade::NewBlade;
use vatten_store::edit::BladeEdit;

/// A blade that was checked.
pub struct ReadyBlade {
    /// The blade.
    pub new: NewBlade,
    /// When it was entered.
    pub entered_at: OffsetDateTime,
    /// When it came off the rack.
    pub finished_at: Option<OffsetDateTime>,
    /// Its clay.
    pub clay: Option<ClayFile>,
    /// Its plans, oldest first.
    pub plans: Vec<ReadyPlan>,
    /// What was changed of it.
    pub edits: Vec<BladeEdit>,
}

/// A plan that was checked.
pub struct ReadyPlan {
    /// The plan.
    pub plan: Plan,
    /// Its firing.
    pub firing: Option<ReadyFiring>,
}

impl GeometryFile {
    pub(super) fn check(&self) -> Result<Geometry, Faults> {
        Geometry::parse(&BladeDraft {
            shape: Some(self.shape.clone()),
            length_mm: Some(self.length_mm),
            width_mm: Some(self.width_mm),
            spine_mm: Some(self.spine_mm),
            edge_mm: Some(self.edge_mm),
            grind: Some(self.grind.clone()),
        })
    }
}

impl ClayFile {
    pub(super) fn check(&self) -> Result<(), Faults> {
        let mut c = Checker::default();
        c.take(Clay::parse(&self.clay).map_err(|f| f.under("clay")));
        check_wanted(&mut c, &self.wanted);
        c.finish(Some(()))
    }
}

impl BladeFile {
    pub fn check(&self, ids: &Ids, shift: Duration) -> Result<ReadyBlade, Faults> {
        let mut c = Checker::default();
        let geometry = c.take(self.geometry.check().map_err(|f| f.under("geometry")));
        if let Some(geometry) = &geometry {
            let work = self.ready.work(geometry, None);
            c.take(work.map_err(|f| f.under("ready")));
        }
        if let Some(file) = &self.clay {
            c.take(file.check().map_err(|f| f.under("clay")));
        }
        let purpose = c.take(Purpose::parse("purpose", &self.purpose));
        let target = wanted_hrc(
            &mut c,
            ("target_low_hrc", self.target_low_hrc),
            ("target_high_hrc", self.target_high_hrc),
        );
        let mark = c.take(text("mark", &self.mark, (1, 20)));
        let name = c.take(text("name", &self.name, (1, 80)));
        let note = c.take(text("note", &self.note, (0, 2000)));
        let bar = self.bar_id.and_then(|id| {
            let known = ids.bars.get(&id).cloned();
            if known.is_none() && ids.complete {
                c.refuse("bar_id", "This is no bar of the file.");
            }
            known
        });
        let steel = ids.steel(&self.steel);
        if steel.is_none() {
            c.refuse(
                "steel",
                format!(
                    "{} is not a steel of the table nor of this file.",
                    self.steel
                ),
            );
        }
        let new = || {
            Some(NewBlade {
                mark: mark?,
                name: name?,
                steel: reference(steel.as_ref()?),
                geometry: geometry?,
                purpose: purpose?,
                target_hrc: target?,
                ready: self.ready.clone(),
                bar_id: bar.as_ref().map(|b| b.id),
                cut_mm: bar
                    .as_ref()
                    .and(self.cut_mm)
                    .map(|cut| cut.clamp(0.0, 10_000.0)),
                note: note?,
            })
        };
        let new = new();
        let parts = new
            .zip(steel)
            .map(|(new, steel)| (new, MadeOf { steel, bar }));
        let (new, made_of) = c.finish(parts)?;
        let plans = self.check_plans(ids, shift, &new, &made_of)?;
        let edits = self.edits.iter().enumerate().map(|(i, e)| BladeEdit {
            id: v7_at(e.at + shift, i),
            at: e.at + shift,
            by: e.by.clone(),
            changed: e.changed.clone(),
        });
        Ok(ReadyBlade {
            new,
            clay: self.clay.clone(),
            entered_at: self.entered_at + shift,
            finished_at: self.finished_at.map(|at| at + shift),
            plans,
            edits: edits.collect(),
        })
    }

    pub(super) fn check_plans(
        &self,
        ids: &Ids,
        shift: Duration,
        new: &NewBlade,
        made_of: &MadeOf,
    ) -> Result<Vec<ReadyPlan>, Faults> {
        let mut c = Checker::default();
        let count = self.plans.len();
        let mut plans = Vec::with_capacity(count);
        for (i, file) in self.plans.iter().enumerate() {
            let fields = format!("plans[{i}]");
            if file.firing.is_none() && i + 1 < count {
                let message = "Only the last plan of a blade may be unfired.";
                c.refuse(fields.clone(), message);
            }
            let checked = file.check(ids, shift, new, made_of);
            plans.extend(c.take(checked.map_err(|f| f.under(&fields))));
        }
        c.finish(Some(plans))
    }
}

impl PlanFile {
    pub(super) fn check(
        &self,
        ids: &Ids,
        shift: Duration,
        new: &NewBlade,
        as_is: &MadeOf,
    ) -> Result<ReadyPlan, Faults> {
        let drafts = drafts_of(&self.steps)?;
        let stations = &ids.stations;
        let plan = with_stations(&Plan::parse(&drafts)?, ids)?;
        let Some(file) = &self.firing else {
            return Ok(ReadyPlan { plan, firing: None });
        };
        let mut c = Checker::default();
        let made = file.made.check(new, as_is, ids);
        let made = c.take(made.map_err(|f| f.under("firing.made")));
        let events =
            c.take(events_of(&file.events, shift, &ids.stations).map_err(|f| f.under("firing")));
        let events = events.unwrap_or_default();
        let past: Vec<rules::Event> = events
            .iter()
            .map(|e| rules::Event {
                id: e.id,
                what: e.what.clone(),
                at_ms: 0,
            })
            .collect();
        let state = rules::state(plan.steps(), &past);
        if let Err(refusal) = &state {
            c.refuse("firing.events", refusal.to_string());
        }
        let soft = state.is_ok_and(|s| !s.quenched);
        for (field, empty) in [
            ("firing.readings", file.readings.is_empty()),
            ("firing.findings", file.findings.is_empty()),
        ] {
            if soft && !empty {
                c.refuse(field, "There are results, but it was never quenched.");
            }
        }
        let length_mm = made
            .as_ref()
            .map_or(new.geometry.length_mm, |(made, _)| made.blade.length_mm);
        let readings = c.take(file.check_readings(ids, shift, length_mm));
        let findings = c.take(file.check_findings(shift));
        let results = readings.zip(findings);
        let ready = made
            .zip(results)
            .map(|((made, has_checks), (readings, findings))| ReadyPlan {
                plan,
                firing: Some(ReadyFiring {
                    started_at: file.started_at + shift,
                    prediction: file.prediction.clone().map(|p| p.with_stations(stations)),
                    made,
                    has_checks,
                    events,
                    readings,
                    findings,
                }),
            });
        c.finish(ready)
    }
}
