//! Stations and their checks in an exchange file. How a station is reached stays out of it: a file must not
//! make a server reach for a host.

use crate::body::text;
use crate::problem::Problem;
use crate::routes::blade::parse_medium;
use serde::{Deserialize, Serialize};
use sqlx::PgConnection;
use std::collections::HashMap;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::process::calibration::{Against, Calibration};
use vatten_core::process::station::StationKind;
use vatten_core::quantity::units::{Litres, Quantity};
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_store::calibration::NewCalibration;
use vatten_store::station::{NewStation, Station};
use vatten_store::{WorkshopId, archive, calibration, station};

/// A station in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StationFile {
    /// Id that steps and readings use.
    pub id: Uuid,
    /// What it is.
    pub kind: StationKind,
    /// Name.
    pub name: String,
    /// Of a tank: the medium in it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub medium: Option<String>,
    /// Of a tank: how much, l.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub litres: Option<f64>,
    /// Remark.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// No longer used.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub retired: bool,
    /// How it was checked, oldest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub checks: Vec<CheckFile>,
}

/// A check of a station in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CheckFile {
    /// What it was checked against.
    pub against: Against,
    /// What it showed and what really was, °C or HRC.
    pub points: Vec<[f64; 2]>,
    /// Remark.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    pub done_at: OffsetDateTime,
    /// Withdrawn: kept, but not used.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub withdrawn: bool,
}

/// A station to be made by an import.
pub struct ReadyStation {
    id: Uuid,
    new: NewStation,
    checks: Vec<(NewCalibration, Option<OffsetDateTime>)>,
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
pub fn check(
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

/// Puts the stations of an import back.
///
/// # Errors
/// The database refuses one.
pub async fn restore(
    tx: &mut PgConnection,
    id: WorkshopId,
    stations: Vec<ReadyStation>,
) -> Result<(), Problem> {
    for ready in stations {
        let retired = ready.new.retired.then(OffsetDateTime::now_utc);
        archive::restore_station(tx, id, ready.id, &ready.new, retired, &ready.checks).await?;
    }
    Ok(())
}

/// The stations of a shop with their checks.
///
/// # Errors
/// The database cannot be read.
pub async fn export(tx: &mut PgConnection, id: WorkshopId) -> Result<Vec<StationFile>, Problem> {
    let checks = calibration::list(&mut *tx, id).await?;
    let of = |station: Uuid| {
        let mine = checks.iter().filter(|c| c.station_id == station);
        mine.map(|c| CheckFile {
            against: c.against,
            points: c.points.points().to_vec(),
            note: c.note.clone(),
            done_at: c.done_at,
            withdrawn: c.withdrawn_at.is_some(),
        })
        .collect()
    };
    let all = station::list(tx, id).await?.into_iter();
    Ok(all
        .map(|s| StationFile {
            checks: of(s.id),
            id: s.id,
            kind: s.kind,
            name: s.name,
            medium: s.medium,
            litres: s.litres,
            note: s.note,
            retired: s.retired_at.is_some(),
        })
        .collect())
}
