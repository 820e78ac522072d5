//! Computation off the async threads, as much at once as there are cores.

use crate::problem::Problem;
use rocket::http::Status;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use tokio::sync::Semaphore;
use vatten_core::simulation::quench::Stopped;

/// As many computations at once as there are cores; the others wait. A clone is the same pool.
#[derive(Debug, Clone)]
pub struct ComputePool {
    permits: Arc<Semaphore>,
}

impl Default for ComputePool {
    fn default() -> Self {
        let cores = std::thread::available_parallelism().map_or(2, usize::from);
        Self {
            permits: Arc::new(Semaphore::new(cores)),
        }
    }
}

/// The problem of a computation that broke off.
#[must_use]
pub fn broken_off() -> Problem {
    Problem::new(
        Status::InternalServerError,
        "The computation broke off. Try again.",
    )
}

impl ComputePool {
    /// Runs `work` when a core is free.
    ///
    /// # Errors
    /// The computation panicked.
    pub async fn run<T: Send + 'static>(
        &self,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, Problem> {
        let permit = Arc::clone(&self.permits).acquire_owned();
        let permit = permit.await.map_err(|_| broken_off())?;
        // The core is free when the work ends, not when the request that asked for it has gone.
        let work = move || {
            let _permit = permit;
            work()
        };
        let done = tokio::task::spawn_blocking(work).await;
        done.map_err(|panicked| {
            let mut problem = broken_off();
            problem.cause = Some(panicked.to_string().into());
            problem
        })
    }

    /// Runs a simulation, which is told to stop when nobody waits for it any more.
    ///
    /// # Errors
    /// The computation panicked or was stopped.
    pub async fn run_stoppable<T: Send + 'static>(
        &self,
        work: impl FnOnce(&AtomicBool) -> Result<T, Stopped> + Send + 'static,
    ) -> Result<T, Problem> {
        let stop = StopOnDrop::default();
        let flag = Arc::clone(&stop.0);
        self.run(move || work(&flag))
            .await?
            .map_err(|_| broken_off())
    }
}

/// Sets its flag when dropped: with the request that waits for a result goes the computation.
#[derive(Default)]
struct StopOnDrop(Arc<AtomicBool>);

impl Drop for StopOnDrop {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}
