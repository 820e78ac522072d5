//! Values of a tester that the database has not taken yet: one file for each tester, one line for each value,
//! on disk before it is tried. A tester says each value once, so none may be lost with the database away.

use std::io::{ErrorKind, Write};
use std::path::{Path, PathBuf};
use time::OffsetDateTime;
use time::format_description::well_known::Rfc3339;
use uuid::Uuid;
use vatten_store::tester_value::TesterValue;
use vatten_store::{PgPool, WorkshopId, tester_value};

/// The values of one tester that wait for the database.
#[derive(Debug)]
pub struct Spool {
    file: PathBuf,
    waiting: Vec<TesterValue>,
}

fn written(value: &TesterValue) -> Option<String> {
    let at = value.at.format(&Rfc3339).ok()?;
    Some(format!("{} {at} {}\n", value.id, value.value_hrc))
}

fn read(station_id: Uuid, line: &str) -> Option<TesterValue> {
    let mut cells = line.split_whitespace();
    Some(TesterValue {
        id: cells.next()?.parse().ok()?,
        station_id,
        at: OffsetDateTime::parse(cells.next()?, &Rfc3339).ok()?,
        value_hrc: cells.next()?.parse().ok()?,
    })
}

impl Spool {
    /// The spool of a tester, with what an earlier process left in it. A line that broke off is left out.
    pub fn open(folder: &Path, station_id: Uuid) -> std::io::Result<Self> {
        std::fs::create_dir_all(folder)?;
        let file = folder.join(station_id.to_string());
        let text = match std::fs::read_to_string(&file) {
            Err(e) if e.kind() == ErrorKind::NotFound => String::new(),
            other => other?,
        };
        let waiting = text.lines().filter_map(|l| read(station_id, l)).collect();
        Ok(Self { file, waiting })
    }

    /// True when something waits.
    pub fn waits(&self) -> bool {
        !self.waiting.is_empty()
    }

    /// Takes a value, on disk when this is done.
    pub fn add(&mut self, value: TesterValue) -> std::io::Result<()> {
        let mut file = std::fs::OpenOptions::new()
            .create(true)
            .append(true)
            .open(&self.file)?;
        if let Some(line) = written(&value) {
            file.write_all(line.as_bytes())?;
            file.sync_data()?;
        }
        self.waiting.push(value);
        Ok(())
    }

    /// Hands on what waits, oldest first.
    ///
    /// # Errors
    /// The database is still away: what it did not take waits on.
    pub async fn hand_on(
        &mut self,
        pool: &PgPool,
        workshop: WorkshopId,
    ) -> Result<(), vatten_store::Error> {
        while let Some(next) = self.waiting.first() {
            tester_value::add(pool, workshop, next).await?;
            self.waiting.remove(0);
            let left: String = self.waiting.iter().filter_map(written).collect();
            // What is told twice is kept once: it has an id of its own.
            if let Err(error) = std::fs::write(&self.file, left) {
                tracing::error!("the spool of a tester: {error}");
            }
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_waits_outlives_the_process() {
        let folder = std::env::temp_dir().join(format!("vatten-spool-{}", Uuid::now_v7()));
        let station = Uuid::from_u128(7);
        let value = |n: u128| TesterValue {
            id: Uuid::from_u128(n),
            station_id: station,
            at: OffsetDateTime::UNIX_EPOCH + time::Duration::seconds(1),
            value_hrc: 60.0 + n as f64,
        };
        let mut spool = Spool::open(&folder, station).unwrap();
        assert!(!spool.waits());
        spool.add(value(1)).unwrap();
        spool.add(value(2)).unwrap();
        // A line that the power cut short.
        let path = folder.join(station.to_string());
        let text = std::fs::read_to_string(&path).unwrap();
        std::fs::write(&path, format!("{text}{} 20", Uuid::from_u128(3))).unwrap();
        let again = Spool::open(&folder, station).unwrap();
        assert_eq!(again.waiting, [value(1), value(2)]);
        std::fs::remove_dir_all(&folder).unwrap();
    }
}
