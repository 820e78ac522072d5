//! What the shop of a file has: stations, bars, methods and trials.

use super::{Ids, drafts_of, reference, with_stations};
use crate::body::text;
use crate::exchange::format::{BarFile, LadderFile, MethodFile, StationFile, TrialFile};
use crate::routes::blade::parse_medium;
use crate::routes::ladder::check as check_ladder;
use crate::routes::trial::piece;
use std::collections::HashMap;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::material::analysis::Analysis;
use vatten_core::prediction::laminate::{LayerDraft, Role, edge_of, edge_share};
use vatten_core::prediction::made::{BarMade, LayerMade, SteelMade};
use vatten_core::process::calibration::Calibration;
use vatten_core::process::plan::Plan;
use vatten_core::quantity::units::{Litres, Quantity};
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_core::record::ladder::Ladder;
use vatten_core::record::trial::MAX_ENTRIES;
use vatten_store::archive::PastTrial;
use vatten_store::bar::NewBar;
use vatten_store::calibration::NewCalibration;
use vatten_store::ladder::NewLadder;
use vatten_store::station::{NewStation, Station};

impl BarFile {
    pub fn check(&self, to: Uuid, ids: &Ids) -> Result<(NewBar, BarMade), Faults> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 60)));
        let note = c.take(text("note", &self.note, (0, 500)));
        c.take(self.size.check().map_err(|f| f.under("size")));
        c.take(edge_of(&self.layers));
        let share = c.take(edge_share(&self.layers, self.size.thickness_mm));
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
                thickness_mm: layer.thickness_mm,
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
                edge_share: share.flatten(),
            };
            (new, made)
        });
        c.finish(parts)
    }
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

impl LadderFile {
    /// The ladder as it is to be kept, of the steel and at the stations that the shop has.
    ///
    /// # Errors
    /// Faults such as `steel` and `rungs[2].values_hrc[0]`.
    pub fn check(&self, ids: &Ids, stations: &[Station]) -> Result<NewLadder, Faults> {
        let mut c = Checker::default();
        let steel = ids.steel(&self.steel);
        if steel.is_none() {
            let message = "This is not a steel of the table nor of this file.";
            c.refuse("steel", message);
        }
        let mut treatment = self.treatment.clone();
        let moved = |id: Option<Uuid>| id.and_then(|id| ids.stations.get(&id).copied());
        treatment.stations.kiln = moved(treatment.stations.kiln);
        treatment.stations.oven = moved(treatment.stations.oven);
        treatment.stations.eye = moved(treatment.stations.eye);
        treatment.tester = moved(treatment.tester);
        let ladder = Ladder {
            along: self.along,
            treatment,
            rungs: self.rungs.clone(),
        };
        let checked = c.take(check_ladder(&self.name, ladder, stations));
        c.finish(steel.zip(checked).map(|(steel, (name, ladder))| NewLadder {
            name,
            steel: steel.key(),
            ladder,
        }))
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
        let piece = c.take(piece(
            self.was.as_deref(),
            self.measured.clone(),
            self.thickness_mm,
        ));
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
        c.finish(name.zip(piece).map(|(name, piece)| PastTrial {
            name,
            piece,
            entries: self.entries.clone(),
            steel_id,
        }))
    }
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
    pub(super) fn check(&self, to: Uuid, shift: Duration) -> Result<ReadyStation, Faults> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 80)));
        let note = c.take(text("note", &self.note, (0, 500)));
        c.take(parse_medium(self.medium.as_deref()));
        let litres = self.litres.and_then(|l| c.take(Litres::check("litres", l)));
        if let Some(curve) = &self.curve {
            c.take(curve.nodes.check().map_err(|f| f.under("curve")));
        }
        let capacity = c.take(self.capacity.checked().map_err(|f| f.under("capacity")));
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
                filled_at: self.filled_at.map(|at| at + shift),
                curve: self.curve.clone(),
                capacity: capacity.unwrap_or_default(),
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
