//! A file checked against the rules of the job before anything of it is kept: every fault with its place.

use super::format::{
    BarFile, BladeFile, ClayFile, EventFile, FindingFile, FiringFile, GeometryFile, MadeFile,
    MethodFile, PlanFile, ReadingFile, StationFile, TrialFile,
};
use crate::body::{text, wanted_hrc};
use crate::routes::blade::parse_medium;
use crate::routes::clay::check_wanted;
use std::collections::{BTreeMap, HashMap};
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::geometry::blade::{Blade as Geometry, BladeDraft};
use vatten_core::geometry::clay::Clay;
use vatten_core::material::analysis::Analysis;
use vatten_core::material::purpose::Purpose;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::Prediction;
use vatten_core::prediction::laminate::{LayerDraft, Role, edge_of};
use vatten_core::prediction::made::{BarMade, LayerMade, Made, MadeOf, SteelMade};
use vatten_core::process::calibration::Calibration;
use vatten_core::process::firing::{self as rules, FiringEvent};
use vatten_core::process::plan::{Plan, Stations};
use vatten_core::process::step::Step;
use vatten_core::process::step_draft::StepDraft;
use vatten_core::quantity::units::{Hrc, Litres, Quantity};
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_core::record::reading::{Values, When};
use vatten_core::record::trial::MAX_ENTRIES;
use vatten_store::archive::PastTrial;
use vatten_store::bar::NewBar;
use vatten_store::blade::{NewBlade, SteelRef};
use vatten_store::calibration::NewCalibration;
use vatten_store::edit::BladeEdit;
use vatten_store::finding::NewFinding;
use vatten_store::firing::Past;
use vatten_store::reading::NewReading;
use vatten_store::station::{NewStation, Station};

/// What the ids of a file are in the shop.
#[derive(Default)]
pub struct Ids {
    /// Stations by their id in the file.
    pub stations: HashMap<Uuid, Uuid>,
    /// Steels by their id in the file.
    pub steels: HashMap<String, SteelMade>,
    /// Bars by their id in the file.
    pub bars: HashMap<Uuid, BarMade>,
    /// Nothing of them was refused: what is missing here is missing in the file.
    pub complete: bool,
}

impl Ids {
    /// A steel by its designation or its id in the file.
    pub fn steel(&self, text: &str) -> Option<SteelMade> {
        let table = || {
            let key = Steel::built_in(text)?.key.clone();
            Some(SteelMade::BuiltIn { key })
        };
        self.steels.get(text).cloned().or_else(table)
    }

    /// A steel as it was kept with a firing, under its id in the shop.
    fn kept(&self, steel: &SteelMade) -> SteelMade {
        match steel {
            SteelMade::House {
                id,
                name,
                analysis,
                estimate,
            } => match self.steels.get(&id.to_string()) {
                Some(SteelMade::House { id, .. }) => SteelMade::House {
                    id: *id,
                    name: name.clone(),
                    analysis: *analysis,
                    estimate: *estimate,
                },
                _ => steel.clone(),
            },
            built_in => built_in.clone(),
        }
    }
}

fn reference(steel: &SteelMade) -> SteelRef {
    match steel {
        SteelMade::BuiltIn { key } => SteelRef::BuiltIn(key.clone()),
        SteelMade::House { id, .. } => SteelRef::House(*id),
    }
}

/// Faults of a steel as it was kept.
fn check_kept(steel: &SteelMade) -> Result<(), Faults> {
    match steel {
        SteelMade::BuiltIn { key } if Steel::built_in(key).is_none() => {
            Err(Faults::one("steel", "This is not a steel of the table."))
        }
        SteelMade::BuiltIn { .. } => Ok(()),
        SteelMade::House { analysis, .. } => Analysis::parse(&elements(analysis)).map(|_| ()),
    }
}

/// A geometry read as if it were written by hand: within what a blade may be.
fn as_drawn(b: &Geometry) -> Result<Geometry, Faults> {
    Geometry::parse(&BladeDraft {
        shape: Some(b.shape.id().to_owned()),
        length_mm: Some(b.length_mm),
        width_mm: Some(b.width_mm),
        spine_mm: Some(b.spine_mm),
        edge_mm: Some(b.edge_mm),
        grind: serde_json::to_value(b.grind)
            .ok()
            .and_then(|g| g.as_str().map(str::to_owned)),
    })
}

impl MadeFile {
    /// The steel and the analysis of its bar, as they were.
    fn check_metal(&self, c: &mut Checker) {
        let layers = self.bar.iter().flat_map(|b| &b.layers);
        for steel in self.steel.iter().chain(layers.map(|l| &l.steel)) {
            c.take(check_kept(steel));
        }
        if let Some(analysis) = self.bar.as_ref().and_then(|b| b.analysis.as_ref()) {
            c.take(Analysis::parse(&elements(analysis)).map_err(|f| f.under("bar.analysis")));
        }
    }

    /// What it was made of, under the ids of this shop. An older file says nothing of the steel: then it says
    /// nothing of the bar either.
    fn made_of(&self, as_is: &MadeOf, ids: &Ids) -> MadeOf {
        let Some(steel) = &self.steel else {
            return as_is.clone();
        };
        let bar = self.bar.as_ref().map(|bar| BarMade {
            id: ids.bars.get(&bar.id).map_or(bar.id, |b| b.id),
            layers: bar
                .layers
                .iter()
                .map(|l| LayerMade {
                    role: l.role,
                    steel: ids.kept(&l.steel),
                })
                .collect(),
            ..bar.clone()
        });
        MadeOf {
            steel: ids.kept(steel),
            bar,
        }
    }

    /// The blade as it went into the fire, with what is missing as the blade of the file has it. The checks in
    /// force are None where the file does not say.
    fn check(&self, new: &NewBlade, as_is: &MadeOf, ids: &Ids) -> Result<(Made, bool), Faults> {
        let mut c = Checker::default();
        let blade = match &self.blade {
            Some(b) => c.take(as_drawn(b).map_err(|f| f.under("blade"))),
            None => Some(new.geometry),
        };
        let mark = c.take(text(
            "mark",
            self.mark.as_ref().unwrap_or(&new.mark),
            (1, 20),
        ));
        let name = c.take(text(
            "name",
            self.name.as_ref().unwrap_or(&new.name),
            (1, 80),
        ));
        self.check_metal(&mut c);
        let target = self.target_hrc.unwrap_or(new.target_hrc);
        c.take(Hrc::check("target_hrc[0]", target.0));
        c.take(Hrc::check("target_hrc[1]", target.1));
        let checks = self.checks.as_ref().map(|checks| {
            for (id, check) in checks.all() {
                let points = check.points.points();
                let good = Calibration::parse(points, check.against.scale());
                c.take(good.map_err(|f| f.under(&format!("checks.{id}"))));
            }
            checks.with_stations(&ids.stations)
        });
        let made_of = self.made_of(as_is, ids);
        let moved = |id: Option<Uuid>| ids.stations.get(&id?).copied();
        let stations = self.stations.unwrap_or_default();
        let has_checks = checks.is_some();
        let made = blade.zip(mark).zip(name).map(|((blade, mark), name)| Made {
            mark,
            name,
            blade,
            of: made_of,
            purpose: self.purpose.unwrap_or(new.purpose),
            target_hrc: target,
            ready: self.ready.clone(),
            clay: self.clay.clone(),
            stations: Stations {
                kiln: moved(stations.kiln),
                oven: moved(stations.oven),
            },
            checks: checks.unwrap_or_default(),
        });
        if let Some(made) = &made {
            c.take(made.work());
        }
        c.finish(made.map(|made| (made, has_checks)))
    }
}

/// The events of a firing under new ids. An older file undoes by position: what it took back is the event
/// that confirmed that beat last.
fn events_of(files: &[EventFile], shift: Duration) -> Result<Vec<Past>, Faults> {
    let mut ids: HashMap<Uuid, Uuid> = HashMap::new();
    let mut confirmed: HashMap<u64, Uuid> = HashMap::new();
    let mut past: Vec<Past> = Vec::with_capacity(files.len());
    for (i, file) in files.iter().enumerate() {
        let bad = |message: String| Faults::one(format!("events[{i}].happening"), message);
        let at = file.at + shift;
        let id = v7_at(at, i);
        if let Some(known) = file.id {
            ids.insert(known, id);
        }
        let what = &file.happening;
        let beat = what.get("beat").and_then(serde_json::Value::as_u64);
        let what = match (what.get("kind").and_then(|k| k.as_str()), beat) {
            (Some("undo"), Some(beat)) => {
                let event = confirmed.get(&beat).copied();
                let event =
                    event.ok_or_else(|| bad("There is nothing to undo here.".to_owned()))?;
                FiringEvent::Undo { event }
            }
            (kind, beat) => {
                if let (Some("confirm"), Some(beat)) = (kind, beat) {
                    confirmed.insert(beat, id);
                }
                serde_json::from_value(what.clone()).map_err(|e| bad(e.to_string()))?
            }
        };
        let what = match what {
            FiringEvent::Undo { event } => FiringEvent::Undo {
                event: ids.get(&event).copied().unwrap_or(event),
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

/// A new id that says when and sorts by it; those of one moment by their place in the file.
pub fn v7_at(at: OffsetDateTime, place: usize) -> Uuid {
    let millis = u64::try_from(at.unix_timestamp_nanos() / 1_000_000).unwrap_or(0);
    let mut random = [0; 10];
    random.copy_from_slice(&Uuid::now_v7().as_bytes()[6..]);
    // Twelve bits come before the random ones.
    let place = u16::try_from(place % 4096).unwrap_or(0).to_be_bytes();
    random[..2].copy_from_slice(&place);
    uuid::Builder::from_unix_timestamp_millis(millis, &random).into_uuid()
}

/// Gives every station of a plan its new id.
fn with_stations(plan: &Plan, ids: &Ids) -> Result<Plan, Faults> {
    let mut c = Checker::default();
    let mut steps = plan.steps().to_vec();
    for (i, step) in steps.iter_mut().enumerate() {
        if let Step::Austenitize { station_id, .. } | Step::Temper { station_id, .. } = step
            && let Some(id) = station_id
        {
            match ids.stations.get(id) {
                Some(to) => *id = *to,
                None if !ids.complete => *station_id = None,
                None => {
                    let field = format!("steps[{i}].station_id");
                    c.refuse(field, "This is no station of the file.");
                }
            }
        }
    }
    c.finish(Some(Plan::stored(steps)))
}

impl GeometryFile {
    fn check(&self) -> Result<Geometry, Faults> {
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
    fn check(&self) -> Result<(), Faults> {
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

    fn check_plans(
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

impl BarFile {
    pub fn check(&self, to: Uuid, ids: &Ids) -> Result<(NewBar, BarMade), Faults> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 60)));
        let note = c.take(text("note", &self.note, (0, 500)));
        c.take(self.size.check().map_err(|f| f.under("size")));
        c.take(edge_of(&self.layers));
        let analysis = self
            .analysis
            .as_ref()
            .and_then(|a| c.take(Analysis::parse(a).map_err(|f| f.under("analysis"))));
        let steel = ids.steel(&self.steel);
        if steel.is_none() {
            c.refuse(
                "steel",
                "This is not a steel of the table nor of this file.",
            );
        }
        let (mut layers, mut made) = (Vec::new(), Vec::new());
        for (i, layer) in self.layers.iter().enumerate() {
            let Some(steel) = ids.steel(&layer.steel) else {
                c.refuse(
                    format!("layers[{i}].steel"),
                    "This is not a steel of the table nor of this file.",
                );
                continue;
            };
            layers.push(LayerDraft {
                role: layer.role,
                steel: steel.key(),
            });
            if layer.role != Role::Edge {
                let role = layer.role;
                made.push(LayerMade { role, steel });
            }
        }
        let parts = name.zip(note).zip(steel).map(|((name, note), steel)| {
            let new = NewBar {
                name: name.clone(),
                steel: reference(&steel),
                layers,
                size: self.size,
                condition: self.condition,
                analysis,
                note,
            };
            let made = BarMade {
                id: to,
                name,
                analysis,
                condition: self.condition,
                layers: made,
            };
            (new, made)
        });
        c.finish(parts)
    }
}

fn drafts_of(steps: &[serde_json::Value]) -> Result<Vec<StepDraft>, Faults> {
    steps
        .iter()
        .enumerate()
        .map(|(i, step)| {
            serde_json::from_value(step.clone())
                .map_err(|e| Faults::one(format!("steps[{i}]"), e.to_string()))
        })
        .collect()
}

impl MethodFile {
    pub fn check(&self, ids: &Ids) -> Result<(String, String, Plan), Faults> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 80)));
        let note = c.take(text("note", &self.note, (0, 500)));
        let plan = c.take(drafts_of(&self.steps).and_then(|d| Plan::parse(&d)));
        let parts = name.zip(note).zip(plan);
        let moved = parts.map(|((n, t), p)| Ok((n, t, with_stations(&p, ids)?)));
        c.finish(moved)?
    }
}

impl TrialFile {
    /// The trial as it is to be kept.
    ///
    /// # Errors
    /// Faults such as `name` and `entries[2].file_hrc`.
    pub fn check(&self, ids: &Ids) -> Result<PastTrial, Faults> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 60)));
        for (i, entry) in self.entries.iter().enumerate() {
            c.take(entry.check().map_err(|f| f.under(&format!("entries[{i}]"))));
        }
        if self.entries.len() > MAX_ENTRIES {
            c.refuse("entries", "These are too many coupons.");
        }
        let steel_id = match self.steel_id.map(|id| ids.steels.get(&id.to_string())) {
            Some(Some(SteelMade::House { id, .. })) => Some(*id),
            _ => None,
        };
        c.finish(name.map(|name| PastTrial {
            name,
            entries: self.entries.clone(),
            steel_id,
        }))
    }
}

impl PlanFile {
    fn check(
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
        let events = c.take(events_of(&file.events, shift).map_err(|f| f.under("firing")));
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

impl FiringFile {
    /// Its readings on a blade of `length_mm`; with each, when it was withdrawn.
    fn check_readings(
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
    fn check_findings(
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
    fn check(
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
    fn check(&self, id: Uuid, found_at: OffsetDateTime) -> Result<NewFinding, Faults> {
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

/// Percent by symbol.
pub fn elements(analysis: &Analysis) -> BTreeMap<String, f64> {
    serde_json::to_value(analysis)
        .and_then(serde_json::from_value)
        .unwrap_or_default()
}

/// A station to be made by an import.
pub struct ReadyStation {
    /// Its id in the shop.
    pub id: Uuid,
    /// The station.
    pub new: NewStation,
    /// Its checks; with each, when it was withdrawn.
    pub checks: Vec<(NewCalibration, Option<OffsetDateTime>)>,
}

impl StationFile {
    fn check(&self, to: Uuid, shift: Duration) -> Result<ReadyStation, Faults> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 80)));
        let note = c.take(text("note", &self.note, (0, 500)));
        c.take(parse_medium(self.medium.as_deref()));
        let litres = self.litres.and_then(|l| c.take(Litres::check("litres", l)));
        let mut checks = Vec::with_capacity(self.checks.len());
        for (i, check) in self.checks.iter().enumerate() {
            let field = format!("checks[{i}]");
            if self.kind.scale() != Some(check.against.scale()) {
                c.refuse(
                    format!("{field}.against"),
                    "It cannot be checked against that.",
                );
            }
            let points = Calibration::parse(&check.points, check.against.scale());
            let points = c.take(points.map_err(|f| f.under(&field)));
            let note = c.take(text("note", &check.note, (0, 500)).map_err(|f| f.under(&field)));
            checks.extend(points.zip(note).map(|(points, note)| {
                let done_at = check.done_at + shift;
                let new = NewCalibration {
                    id: Uuid::now_v7(),
                    against: check.against,
                    points,
                    note,
                    done_at,
                };
                (new, check.withdrawn.then_some(done_at))
            }));
        }
        c.finish(name.zip(note).map(|(name, note)| ReadyStation {
            id: to,
            new: NewStation {
                medium: self.medium.clone(),
                litres: litres.map(Litres::value),
                note,
                retired: self.retired,
                ..NewStation::named(self.kind, name)
            },
            checks,
        }))
    }
}

/// Checks the stations of a file: new ids by those of the file, and what is to be made. A station that the
/// shop has by kind and name is that one. What is wrong in the file is left with `c`.
pub fn check_stations(
    known: &[Station],
    files: &[StationFile],
    shift: Duration,
    c: &mut Checker,
    known_names: &mut Vec<String>,
) -> (HashMap<Uuid, Uuid>, Vec<ReadyStation>) {
    let mut ids = HashMap::new();
    let mut new = Vec::new();
    for (i, file) in files.iter().enumerate() {
        let name = file.name.trim().to_lowercase();
        let same = known
            .iter()
            .find(|k| k.kind == file.kind && k.name.to_lowercase() == name);
        let to = same.map_or_else(Uuid::now_v7, |k| k.id);
        ids.insert(file.id, to);
        let checked = c.take(
            file.check(to, shift)
                .map_err(|f| f.under(&format!("stations[{i}]"))),
        );
        match same {
            Some(of_shop) => known_names.push(of_shop.name.clone()),
            None => new.extend(checked),
        }
    }
    (ids, new)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ids_of_one_moment_sort_as_they_stand_in_the_file() {
        let at = OffsetDateTime::from_unix_timestamp(1_764_000_000).unwrap();
        let ids: Vec<Uuid> = (0..400).map(|i| v7_at(at, i)).collect();
        assert!(ids.is_sorted());
        assert!(v7_at(at + Duration::milliseconds(1), 0) > ids[399]);
        let (seconds, _) = ids[0].get_timestamp().unwrap().to_unix();
        assert_eq!((ids[0].get_version_num(), seconds), (7, 1_764_000_000));
    }
}
