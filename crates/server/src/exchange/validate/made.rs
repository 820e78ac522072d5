//! A blade of a file as it went into the fire.

use super::{Ids, check_kept, elements};
use crate::body::text;
use crate::exchange::format::MadeFile;
use uuid::Uuid;
use vatten_core::geometry::blade::{Blade as Geometry, BladeDraft};
use vatten_core::material::analysis::Analysis;
use vatten_core::prediction::made::{BarMade, LayerMade, Made, MadeOf};
use vatten_core::process::calibration::Calibration;
use vatten_core::process::plan::Stations;
use vatten_core::quantity::units::{Hrc, Quantity};
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_store::blade::NewBlade;

/// A geometry read as if it were written by hand: within what a blade may be.
pub(super) fn as_drawn(b: &Geometry) -> Result<Geometry, Faults> {
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
    pub(super) fn check_metal(&self, c: &mut Checker) {
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
    pub(super) fn check(
        &self,
        new: &NewBlade,
        as_is: &MadeOf,
        ids: &Ids,
    ) -> Result<(Made, bool), Faults> {
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
            material: made_of,
            purpose: self.purpose.unwrap_or(new.purpose),
            target_hrc: target,
            ready: self.ready.clone(),
            clay: self.clay.clone(),
            stations: Stations {
                kiln: moved(stations.kiln),
                oven: moved(stations.oven),
                eye: moved(stations.eye),
            },
            checks: checks.unwrap_or_default(),
        });
        if let Some(made) = &made {
            c.take(made.work());
        }
        c.finish(made.map(|made| (made, has_checks)))
    }
}
