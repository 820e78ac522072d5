//! Models fitted to the records of shops, each kept until those records change.

use crate::cache::Cache;
use crate::compute_pool::ComputePool;
use crate::problem::Problem;
use crate::shop_model::{KnownPhysics, Records, ShopModel, fit, simulate_all};
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};
use uuid::Uuid;
use vatten_core::simulation::simulated::Simulated;
use vatten_store::{PgPool, WorkshopId, record, station, steel, workshop};

/// Models kept. One of a shop with thousands of results of every kind takes some 150 MB.
const MAX_MODELS: usize = 16;
/// Results of physics kept, over all shops.
const MAX_PHYSICS: usize = 20_000;
/// Blades of steel without a paper kept, over all shops; 2 kB each.
const MAX_OF_EACH: usize = 2_000;

/// One lock for each shop: what takes long is done once, however many ask for it.
#[derive(Debug, Default)]
pub struct ShopLocks(Mutex<HashMap<Uuid, Arc<tokio::sync::Mutex<()>>>>);

impl ShopLocks {
    /// The lock of this shop.
    #[must_use]
    pub fn lock_of(&self, id: WorkshopId) -> Arc<tokio::sync::Mutex<()>> {
        // A lock that somebody dropped while it was broken is as good as any.
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        Arc::clone(all.entry(id.uuid()).or_default())
    }
}

/// A model and the version of the records that it was fitted to.
#[derive(Debug)]
struct Fitted {
    records_version: i64,
    model: Arc<ShopModel>,
}

/// Fitted models of all shops.
#[derive(Debug)]
pub struct ModelCache {
    compute: ComputePool,
    models: Mutex<HashMap<Uuid, Fitted>>,
    fitting: ShopLocks,
    /// Held while the lessons of a shop are counted.
    pub counting: ShopLocks,
    /// What physics said of blades before.
    pub physics: Arc<KnownPhysics>,
}

impl ModelCache {
    /// An empty one that fits in `compute`.
    #[must_use]
    pub fn new(compute: ComputePool) -> Self {
        Self {
            compute,
            models: Mutex::default(),
            fitting: ShopLocks::default(),
            counting: ShopLocks::default(),
            physics: Arc::new(KnownPhysics {
                treated: Cache::holding(MAX_PHYSICS),
                of_each: Cache::holding(MAX_OF_EACH),
            }),
        }
    }

    /// The model of a shop, fitted anew only when its records changed.
    ///
    /// # Errors
    /// The database cannot be read.
    pub async fn current(&self, pool: &PgPool, id: WorkshopId) -> Result<Arc<ShopModel>, Problem> {
        if let Some(known) = self.at(id, workshop::records_version(pool, id).await?) {
            return Ok(known);
        }
        let _alone = self.fitting.lock_of(id).lock_owned().await;
        // Somebody may have fitted it while this one waited.
        let version = workshop::records_version(pool, id).await?;
        if let Some(known) = self.at(id, version) {
            return Ok(known);
        }
        let mut connection = pool.acquire().await.map_err(vatten_store::Error::from)?;
        let records = Records::read(&mut connection, id).await?;
        drop(connection);
        let physics = Arc::clone(&self.physics);
        let fitted = self.compute.run(move || fit(records, &physics)).await?;
        let (model, simulated) = (fitted.model, fitted.simulated);
        // What the engine was asked anew is kept, so that it is asked once.
        record::keep_simulated(pool, id, &simulated).await?;
        if !fitted.narrowed.is_empty() {
            let mut connection = pool.acquire().await.map_err(vatten_store::Error::from)?;
            steel::narrow(&mut connection, id, &fitted.narrowed).await?;
        }
        let model = Arc::new(model);
        self.keep(id, version, &model);
        Ok(model)
    }

    /// Lets what coupons and blades showed of steels without a paper be kept with those steels before they are read.
    ///
    /// # Errors
    /// The database cannot be read.
    pub async fn narrow(&self, pool: &PgPool, id: WorkshopId) -> Result<(), Problem> {
        if steel::any_reclaimed(pool, id).await? {
            self.current(pool, id).await?;
        }
        Ok(())
    }

    fn keep(&self, id: WorkshopId, records_version: i64, model: &Arc<ShopModel>) {
        let Ok(mut models) = self.models.lock() else {
            return;
        };
        if models.len() >= MAX_MODELS
            && let Some(any) = models.keys().next().copied()
        {
            models.remove(&any);
        }
        let model = Arc::clone(model);
        let fitted = Fitted {
            records_version,
            model,
        };
        models.insert(id.uuid(), fitted);
    }

    /// The model of this version of the records, when it was fitted already.
    #[must_use]
    pub fn at(&self, id: WorkshopId, records_version: i64) -> Option<Arc<ShopModel>> {
        let models = self.models.lock().ok()?;
        let fitted = models.get(&id.uuid())?;
        (fitted.records_version == records_version).then(|| Arc::clone(&fitted.model))
    }

    /// What the engine alone says of quenches as they were done, by firing: asked once and kept.
    ///
    /// # Errors
    /// The database cannot be read.
    pub async fn simulated(
        &self,
        pool: &PgPool,
        id: WorkshopId,
        firings: &[Uuid],
    ) -> Result<HashMap<Uuid, Simulated>, Problem> {
        if firings.is_empty() {
            return Ok(HashMap::new());
        }
        let rows = record::treated(pool, id, firings).await?;
        let stations = station::list(pool, id).await?;
        let physics = Arc::clone(&self.physics);
        let (found, asked) = self
            .compute
            .run(move || simulate_all(&rows, &stations, &physics.treated))
            .await?;
        record::keep_simulated(pool, id, &asked).await?;
        Ok(found)
    }
}
