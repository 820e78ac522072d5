//! A blade of the shop with all that a prediction of it needs.

use crate::predictor::{Asked, Metal, fire, usual_tester};
use crate::problem::Problem;
use crate::routes::blade::usual_stations;
use std::sync::Arc;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::calibration::Corrections;
use vatten_core::plan::{Plan, Stations};
use vatten_core::ready::Made;
use vatten_core::work::Work;
use vatten_store::blade::Blade;
use vatten_store::station::Station;
use vatten_store::{PgPool, WorkshopId, blade, calibration, clay, station};

/// The blade, its steel, its work and the shop's stations.
#[derive(Debug, Clone)]
pub struct Stored {
    /// The blade.
    pub blade: Blade,
    /// What it is made of.
    pub metal: Metal,
    /// Its form and what is around it.
    pub work: Work,
    /// The shop's stations.
    pub stations: Vec<Station>,
    /// Their checks in force now.
    pub corrections: Arc<Corrections>,
}

/// The checks of a shop's stations in force now.
///
/// # Errors
/// The database cannot be read.
pub async fn corrections_now(
    pool: &PgPool,
    workshop: WorkshopId,
) -> Result<Arc<Corrections>, Problem> {
    let now = OffsetDateTime::now_utc().unix_timestamp();
    Ok(Arc::new(calibration::checks(pool, workshop).await?.at(now)))
}

impl Stored {
    /// Reads it.
    ///
    /// # Errors
    /// The shop has no such blade, or the database cannot be read.
    pub async fn read(pool: &PgPool, workshop: WorkshopId, id: Uuid) -> Result<Self, Problem> {
        let blade = blade::get(pool, workshop, id).await?;
        let made = Made {
            ready: blade.ready.clone(),
            clay: clay::get(pool, workshop, id).await?.painted().cloned(),
        };
        Self::of(pool, workshop, blade, &made).await
    }

    /// A blade as it goes, or went, into the fire.
    ///
    /// # Errors
    /// As [`Stored::read`].
    pub async fn of(
        pool: &PgPool,
        workshop: WorkshopId,
        blade: Blade,
        made: &Made,
    ) -> Result<Self, Problem> {
        let metal = Metal::of_blade(pool, workshop, &blade).await?;
        let work = made.ready.work(&blade.geometry()?, made.clay.as_ref())?;
        Ok(Self {
            metal,
            work,
            stations: station::list(pool, workshop).await?,
            corrections: corrections_now(pool, workshop).await?,
            blade,
        })
    }

    /// Wanted hardness, HRC.
    #[must_use]
    pub fn target(&self) -> (f64, f64) {
        (self.blade.target_low_hrc, self.blade.target_high_hrc)
    }

    /// The stations a plan uses when it names none.
    ///
    /// # Errors
    /// Never here; the rule is shared with a plan that names one.
    pub fn usual_stations(&self) -> Result<Stations, Problem> {
        Ok(usual_stations(&self.stations, None)?)
    }

    /// The question of a plan on it.
    ///
    /// # Errors
    /// As [`Stored::usual_stations`].
    pub fn asked(&self, plan: Plan) -> Result<Asked, Problem> {
        let plan = plan
            .with_stations(self.usual_stations()?)
            .knowing(Arc::clone(&self.corrections));
        let mut work = self.work.clone();
        work.furnace = fire(&self.stations, &plan);
        Ok(Asked {
            steel: self.metal.steel.clone(),
            edge: self.metal.edge.clone(),
            layers: self.metal.layers.clone(),
            bar: self.metal.bar,
            work,
            tester: usual_tester(&self.stations),
            target: Some(self.target()),
            plan,
        })
    }
}
