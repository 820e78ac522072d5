//! Devices outside: each connected station has one task in one of the server processes. Which process is
//! agreed in the database, so that any number of them share the devices and take over from one that died.

mod lines;
mod modbus;
pub mod reach;
mod spool;

use reach::Reach;
use rocket::Shutdown;
use rocket::tokio::task::JoinHandle;
use rocket::tokio::time::{Duration, sleep};
use rocket::tokio::{select, spawn};
use spool::Spool;
use std::collections::HashMap;
use std::path::{Path, PathBuf};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::record::device::Device;
use vatten_store::PgPool;
use vatten_store::sample::{self, Held, Sample};
use vatten_store::tester_value::{self, TesterValue};

/// How often a process says that it still listens.
const SAYS_SO_EVERY: Duration = Duration::from_secs(3);
/// A process that did not say so for this long has died.
const HELD_FOR: time::Duration = time::Duration::seconds(10);
/// A device that does not answer within this is silent.
const ANSWERS_WITHIN: Duration = Duration::from_secs(3);
/// Wait before a silent device is tried again.
const AGAIN: Duration = Duration::from_secs(2);
/// A sample is kept at least this often.
const KEPT_EVERY: time::Duration = time::Duration::seconds(10);
/// And when it moved by this much, °C or HRC.
const MOVED: f64 = 1.0;

/// Listens to the devices until the server ends.
pub async fn run(pool: PgPool, reach: Reach, spool: PathBuf, end: Shutdown) {
    if reach == Reach::Off {
        return;
    }
    let holder = Uuid::now_v7();
    let mut tasks: HashMap<Uuid, (Device, JoinHandle<()>)> = HashMap::new();
    let mut end = std::pin::pin!(end);
    loop {
        match sample::hold(&pool, holder, HELD_FOR).await {
            Ok(held) => keep_up(&pool, reach, &spool, &mut tasks, held),
            // Whoever cannot say so loses what it holds soon: until it can again, it lets go. A tester says
            // each value once: it is listened to as long as nobody else is known to.
            Err(_) => tasks.retain(|_, (device, task)| {
                let tester = matches!(device, Device::Lines { .. });
                if !tester {
                    task.abort();
                }
                tester
            }),
        }
        select! {
            () = sleep(SAYS_SO_EVERY) => {}
            () = &mut end => break,
        }
    }
    stop_all(&mut tasks);
    let _ = sample::release(&pool, holder).await;
}

fn stop_all(tasks: &mut HashMap<Uuid, (Device, JoinHandle<()>)>) {
    for (_, (_, task)) in tasks.drain() {
        task.abort();
    }
}

/// One task for each device held, none for any other.
fn keep_up(
    pool: &PgPool,
    reach: Reach,
    spool: &Path,
    tasks: &mut HashMap<Uuid, (Device, JoinHandle<()>)>,
    held: Vec<Held>,
) {
    tasks.retain(|station, (device, task)| {
        let same = held
            .iter()
            .any(|h| h.station == *station && h.device == *device);
        if !same {
            task.abort();
        }
        same
    });
    for one in held {
        tasks.entry(one.station).or_insert_with(|| {
            let device = one.device.clone();
            let listener = Listener {
                pool: pool.clone(),
                spool: Spool::open(spool, one.station)
                    .inspect_err(|e| tracing::error!("the spool of a tester: {e}"))
                    .ok(),
                held: one,
                kept: None,
                reported: None,
            };
            (device, spawn(listener.listen(reach)))
        });
    }
}

/// Why a device is not heard.
#[derive(Debug, thiserror::Error)]
enum Trouble {
    /// It cannot be reached, or went silent.
    #[error("{0}")]
    Silent(String),
    /// The database is gone: whoever holds the device next goes on.
    #[error("{0}")]
    Store(#[from] vatten_store::Error),
}

/// One device being listened to.
struct Listener {
    pool: PgPool,
    held: Held,
    /// Values of a tester that the database has not taken yet.
    spool: Option<Spool>,
    /// The last sample kept.
    kept: Option<(OffsetDateTime, f64, Option<f64>)>,
    /// The trouble last reported, so that it is reported once.
    reported: Option<String>,
}

impl Listener {
    async fn listen(mut self, reach: Reach) {
        loop {
            let device = self.held.device.clone();
            let (Device::Modbus { host, port, .. } | Device::Lines { host, port, .. }) = &device;
            let ended = match reach.find(host, *port).await {
                Err(sentence) => Err(Trouble::Silent(sentence)),
                Ok(address) => match &device {
                    Device::Modbus { map, .. } => modbus::follow(&mut self, address, map).await,
                    Device::Lines { pattern, .. } => {
                        lines::follow(&mut self, address, pattern).await
                    }
                },
            };
            match ended {
                Ok(()) => {}
                Err(Trouble::Silent(sentence)) => self.tell(&sentence).await,
                Err(Trouble::Store(error)) => tracing::error!("a sample was not kept: {error}"),
            }
            sleep(AGAIN).await;
        }
    }

    /// Takes a value; answers with the set point to be sent, if any.
    async fn heard(&mut self, value: f64, set: Option<f64>) -> Result<Option<f64>, Trouble> {
        let at = OffsetDateTime::now_utc();
        let keep = self.kept.is_none_or(|(then, before, then_set)| {
            at - then >= KEPT_EVERY || (value - before).abs() >= MOVED || set != then_set
        });
        let sample = Sample {
            at,
            value,
            set_value: set,
        };
        let Held {
            workshop, station, ..
        } = self.held;
        let wanted = sample::add(&self.pool, workshop, station, sample, keep).await?;
        if keep {
            self.kept = Some((at, value, set));
        }
        self.reported = None;
        Ok(wanted)
    }

    /// Takes a single reading: each is kept, however alike, with the database away too.
    async fn heard_once(&mut self, value: f64) {
        let Held {
            workshop, station, ..
        } = self.held;
        let said = TesterValue {
            id: Uuid::now_v7(),
            station_id: station,
            at: OffsetDateTime::now_utc(),
            value_hrc: value,
        };
        let spooled = match &mut self.spool {
            Some(spool) => spool.add(said.clone()).is_ok(),
            None => false,
        };
        if !spooled && let Err(error) = tester_value::add(&self.pool, workshop, &said).await {
            tracing::error!("a reading of a tester was not kept: {error}");
        }
        self.hand_on().await;
        // What it shows now; each value is kept by itself.
        self.kept = None;
        let _ = self.heard(value, None).await;
    }

    /// Hands on what waits for the database; what it does not take waits on.
    async fn hand_on(&mut self) {
        if let Some(spool) = self.spool.as_mut().filter(|s| s.waits()) {
            let _ = spool.hand_on(&self.pool, self.held.workshop).await;
        }
    }

    /// It is there, though it has said nothing yet.
    async fn there(&mut self) -> Result<(), Trouble> {
        let Held {
            workshop, station, ..
        } = self.held;
        sample::well(&self.pool, workshop, station).await?;
        self.reported = None;
        Ok(())
    }

    /// Says once what is wrong.
    async fn tell(&mut self, sentence: &str) {
        if self.reported.as_deref() == Some(sentence) {
            return;
        }
        let Held {
            workshop, station, ..
        } = self.held;
        if sample::trouble(&self.pool, workshop, station, sentence)
            .await
            .is_ok()
        {
            self.reported = Some(sentence.to_owned());
        }
    }
}
