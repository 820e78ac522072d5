//! A blade of the shop with all that a prediction of it needs.

use crate::materials::{fire, made_of, metal, usual_tester};
use crate::predictor::PredictionRequest;
use crate::problem::Problem;
use crate::routes::blade::usual_stations;
use std::sync::Arc;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::geometry::clay::{Clay, ClayDraft};
use vatten_core::material::purpose::Purpose;
use vatten_core::prediction::made::{Made, Metal};
use vatten_core::process::calibration::Corrections;
use vatten_core::process::plan::{Plan, Stations};
use vatten_core::process::workpiece::Workpiece;
use vatten_store::blade::BladeRow;
use vatten_store::station::Station;
use vatten_store::{PgPool, WorkshopId, blade, calibration, clay, station};

/// The blade, its steel, its work and the shop's stations.
#[derive(Debug, Clone)]
pub struct PreparedBlade {
    /// The blade as it would go, or went, into the fire.
    pub made: Made,
    /// What it is made of.
    pub metal: Metal,
    /// Its form and what is around it, with the clay that is painted.
    pub work: Workpiece,
    /// The shop's stations.
    pub stations: Vec<Station>,
    /// Their checks in force.
    pub corrections: Arc<Corrections>,
    /// It went into the fire: its clay was laid on.
    fired: bool,
}

/// The checks of a shop's stations in force now.
///
/// # Errors
/// The database cannot be read.
pub async fn corrections_now(
    pool: &PgPool,
    workshop: WorkshopId,
) -> Result<Arc<Corrections>, Problem> {
    let now = OffsetDateTime::now_utc();
    let checks = calibration::checks(pool, workshop).await?;
    let stations = station::list(pool, workshop).await?;
    let known = checks.at(now.unix_timestamp());
    Ok(Arc::new(known.with_tanks(station::tanks(&stations, now))))
}

/// A blade whole, as it stands in the shop now, with the clay that is painted for it.
///
/// # Errors
/// One of its steels is gone, or the database cannot be read.
pub async fn made_now(
    pool: &PgPool,
    workshop: WorkshopId,
    blade: &BladeRow,
    clay: Option<ClayDraft>,
) -> Result<Made, Problem> {
    Ok(Made {
        mark: blade.mark.clone(),
        name: blade.name.clone(),
        blade: blade.geometry()?,
        material: made_of(pool, workshop, blade).await?,
        purpose: Purpose::parse("purpose", &blade.purpose)?,
        target_hrc: (blade.target_low_hrc, blade.target_high_hrc),
        ready: blade.ready.clone(),
        clay,
        stations: usual_stations(&station::list(pool, workshop).await?, None)?,
        checks: Corrections::clone(&*corrections_now(pool, workshop).await?),
    })
}

impl PreparedBlade {
    /// Reads a blade as it is now.
    ///
    /// # Errors
    /// The shop has no such blade, or the database cannot be read.
    pub async fn read(pool: &PgPool, workshop: WorkshopId, id: Uuid) -> Result<Self, Problem> {
        let blade = blade::get(pool, workshop, id).await?;
        let painted = clay::get(pool, workshop, id).await?.painted().cloned();
        let made = made_now(pool, workshop, &blade, painted).await?;
        Self::new(made, station::list(pool, workshop).await?, false)
    }

    /// A blade as it went into the fire, with the checks that were in force then.
    ///
    /// # Errors
    /// One of its steels is gone, or what was kept no longer fits the rules.
    pub async fn fired(pool: &PgPool, workshop: WorkshopId, made: Made) -> Result<Self, Problem> {
        Self::new(made, station::list(pool, workshop).await?, true)
    }

    /// A blade and the stations of its shop.
    ///
    /// # Errors
    /// As [`PreparedBlade::fired`].
    pub fn new(made: Made, stations: Vec<Station>, fired: bool) -> Result<Self, Problem> {
        Ok(Self {
            metal: metal(&made.material)?,
            work: made.work()?,
            corrections: Arc::new(made.checks.clone()),
            stations,
            made,
            fired,
        })
    }

    /// Wanted hardness, HRC.
    #[must_use]
    pub fn target(&self) -> (f64, f64) {
        self.made.target_hrc
    }

    /// The stations a plan uses when it names none.
    #[must_use]
    pub const fn usual_stations(&self) -> Stations {
        self.made.stations
    }

    /// The question of a plan on it. Clay that is painted counts where the plan lays it on.
    #[must_use]
    pub fn asked(&self, plan: Plan) -> PredictionRequest {
        let with = if self.fired || plan.lays_clay() {
            self.work.clay.clone()
        } else {
            Clay::default()
        };
        self.asked_with(plan, with)
    }

    /// The question of a plan on it under this clay.
    #[must_use]
    pub fn asked_with(&self, plan: Plan, clay: Clay) -> PredictionRequest {
        let plan = plan
            .judged_on(&self.metal.steel)
            .with_stations(self.usual_stations())
            .with_corrections(Arc::clone(&self.corrections));
        let mut work = self.work.clone();
        work.furnace = fire(&self.stations, &plan);
        work.unlaid = clay.is_bare() && !self.work.clay.is_bare();
        work.clay = clay;
        PredictionRequest {
            steel: self.metal.steel.clone(),
            edge: self.metal.edge.clone(),
            layers: self.metal.layers.clone(),
            edge_share: self.metal.edge_share,
            bar: self.metal.bar,
            work,
            tester: usual_tester(&self.stations),
            target: Some(self.target()),
            plan,
        }
    }
}
