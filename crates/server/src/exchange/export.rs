//! A shop written to a file, some blades at a time and all of one moment: however large it is, little of it
//! is held at once.

use super::format::{
    BarFile, BladeFile, CheckFile, ClayFile, EditFile, EventFile, ExchangeFile, FORMAT,
    FindingFile, FiringFile, GeometryFile, LadderFile, LeftOut, MethodFile, OnDayFile, PlanFile,
    ReadingFile, StationFile, SteelFile, TrialFile, VERSION,
};
use super::validate::elements;
use crate::problem::Problem;
use rocket::tokio::spawn;
use rocket::tokio::sync::mpsc;
use sqlx::{PgConnection, Postgres, Transaction};
use std::collections::HashMap;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_store::{
    PgPool, WorkshopId, archive, bar, blade, calibration, day, edit, finding, ladder, method,
    station, steel, trial, workshop,
};

/// Blades that are read at once.
const AT_ONCE: i64 = 50;
/// Pieces of the file that wait to be taken.
const AHEAD: usize = 4;

/// Writes a shop to a file, piece by piece. What cannot be read ends the file early: it then reads as no file
/// at all.
///
/// # Errors
/// The database cannot be read.
pub async fn export(pool: &PgPool, id: WorkshopId) -> Result<mpsc::Receiver<Vec<u8>>, Problem> {
    let mut tx = pool.begin().await.map_err(vatten_store::Error::from)?;
    sqlx::query("set transaction isolation level repeatable read, read only")
        .execute(&mut *tx)
        .await
        .map_err(vatten_store::Error::from)?;
    let head = head(&mut tx, id).await?;
    let mut text = serde_json::to_vec(&head).map_err(|_| crate::compute_pool::broken_off())?;
    // The blades follow: the list is left open.
    text.truncate(text.len().saturating_sub("]}".len()));
    let (send, pieces) = mpsc::channel(AHEAD);
    spawn(async move {
        if send.send(text).await.is_ok()
            && let Err(problem) = rest(tx, id, &send).await
        {
            let cause = problem.cause.unwrap_or(problem.detail.into());
            tracing::error!("an export broke off: {cause}");
        }
    });
    Ok(pieces)
}

async fn rest(
    mut tx: Transaction<'static, Postgres>,
    id: WorkshopId,
    send: &mpsc::Sender<Vec<u8>>,
) -> Result<(), Problem> {
    let mut after = None;
    loop {
        let (last, files) = blades(&mut tx, id, after).await?;
        let Some(last) = last else { break };
        let mut text = Vec::new();
        for (i, file) in files.iter().enumerate() {
            if after.is_some() || i > 0 {
                text.push(b',');
            }
            serde_json::to_writer(&mut text, file)
                .map_err(|_| crate::compute_pool::broken_off())?;
        }
        if send.send(text).await.is_err() {
            // Nobody takes it any more.
            return Ok(());
        }
        after = Some(last);
    }
    let _ = send.send(b"]}\n".to_vec()).await;
    Ok(())
}

/// Everything but the blades.
async fn head(tx: &mut PgConnection, id: WorkshopId) -> Result<ExchangeFile, Problem> {
    let [photographs, logs, older] = archive::left_out(&mut *tx, id).await?;
    // One that cannot be read here would not be read elsewhere either.
    let (unreadable, readable): (Vec<_>, Vec<_>) = method::list(&mut *tx, id)
        .await?
        .into_iter()
        .partition(|m| m.unreadable.is_some());
    Ok(ExchangeFile {
        format: FORMAT.to_owned(),
        version: VERSION,
        exported_at: OffsetDateTime::now_utc(),
        workshop: workshop::get(&mut *tx, id).await?.name,
        stations: stations(&mut *tx, id).await?,
        steels: steel::list(&mut *tx, id)
            .await?
            .into_iter()
            .map(|s| SteelFile {
                id: s.id,
                name: s.name,
                estimate: s.estimate,
                analysis: elements(&s.analysis),
            })
            .collect(),
        bars: bar::list(&mut *tx, id)
            .await?
            .into_iter()
            .map(|b| BarFile {
                id: b.id,
                name: b.name,
                steel: b.steel,
                layers: b.layers,
                size: b.size,
                condition: b.condition,
                analysis: b.analysis.map(|a| elements(&a)),
                note: b.note,
            })
            .collect(),
        methods: readable
            .into_iter()
            .map(|m| MethodFile {
                name: m.name,
                note: m.note,
                steps: values(&m.steps),
            })
            .collect(),
        trials: trial::list(&mut *tx, id)
            .await?
            .into_iter()
            .rev()
            .map(|t| TrialFile {
                name: t.name,
                was: Some(<&str>::from(t.piece.was).to_owned()),
                measured: t.piece.measured.into_elements(),
                thickness_mm: Some(t.piece.thickness.value()),
                entries: t.entries,
                steel_id: t.steel_id,
            })
            .collect(),
        ladders: ladder::list(&mut *tx, id)
            .await?
            .into_iter()
            .rev()
            .map(|l| LadderFile {
                name: l.of.name,
                steel: l.of.steel,
                along: l.of.ladder.along,
                treatment: l.of.ladder.treatment,
                rungs: l.of.ladder.rungs,
                began_at: l.created_at,
            })
            .collect(),
        hours: day::hours(&mut *tx, id).await?.map(|h| h.0),
        day: day::blades(&mut *tx, id)
            .await?
            .into_iter()
            .map(|b| OnDayFile {
                mark: b.mark,
                not_before: b.not_before,
                due_at: b.due_at,
            })
            .collect(),
        left_out: LeftOut {
            photographs,
            logs,
            methods: older + unreadable.len() as i64,
        },
        blades: Vec::new(),
    })
}

fn values<T: serde::Serialize>(all: &[T]) -> Vec<serde_json::Value> {
    all.iter()
        .filter_map(|one| serde_json::to_value(one).ok())
        .collect()
}

/// The plans of some blades by blade, each with its firing and what came of it.
async fn plans(
    tx: &mut PgConnection,
    id: WorkshopId,
    ids: &[Uuid],
) -> Result<HashMap<Uuid, Vec<PlanFile>>, Problem> {
    let mut events: HashMap<Uuid, Vec<EventFile>> = HashMap::new();
    for e in archive::events(&mut *tx, id, ids).await? {
        events.entry(e.firing_id).or_default().push(EventFile {
            id: Some(e.id),
            at: e.at,
            device_at: e.device_at,
            what: serde_json::to_value(&e.what).unwrap_or_default(),
        });
    }
    let mut readings: HashMap<Uuid, Vec<ReadingFile>> = HashMap::new();
    for r in archive::readings(&mut *tx, id, ids).await? {
        readings.entry(r.firing_id).or_default().push(ReadingFile {
            stage: r.stage,
            values_hrc: r.values_hrc,
            tester_id: r.tester_id,
            note: r.note,
            taken_at: r.taken_at,
            withdrawn: r.withdrawn_at.is_some(),
            taken: r.taken,
        });
    }
    let mut findings: HashMap<Uuid, Vec<FindingFile>> = HashMap::new();
    for f in finding::of_blades(&mut *tx, id, ids).await? {
        findings.entry(f.firing_id).or_default().push(FindingFile {
            found: f.found,
            note: f.note,
            found_at: f.found_at,
            withdrawn: f.withdrawn_at.is_some(),
        });
    }
    let mut plans: HashMap<Uuid, Vec<PlanFile>> = HashMap::new();
    for p in archive::plans(&mut *tx, id, ids).await? {
        plans.entry(p.blade_id).or_default().push(PlanFile {
            steps: values(&p.steps),
            firing: p.firing.map(|f| FiringFile {
                started_at: f.started_at,
                prediction: Some(f.prediction),
                made: f.made.into(),
                events: events.remove(&f.id).unwrap_or_default(),
                readings: readings.remove(&f.id).unwrap_or_default(),
                findings: findings.remove(&f.id).unwrap_or_default(),
            }),
        });
    }
    Ok(plans)
}

/// Some blades after one, oldest first, and the last of them.
async fn blades(
    tx: &mut PgConnection,
    id: WorkshopId,
    after: Option<Uuid>,
) -> Result<(Option<Uuid>, Vec<BladeFile>), Problem> {
    let some = blade::after(&mut *tx, id, after, AT_ONCE).await?;
    let ids: Vec<Uuid> = some.iter().map(|b| b.id).collect();
    let mut plans = plans(&mut *tx, id, &ids).await?;
    let mut clays: HashMap<Uuid, ClayFile> = HashMap::new();
    for c in archive::clays(&mut *tx, id, &ids).await? {
        let file = ClayFile {
            clay: c.clay,
            wanted: c.wanted,
        };
        clays.insert(c.blade_id, file);
    }
    let mut edits: HashMap<Uuid, Vec<EditFile>> = HashMap::new();
    for (of, e) in edit::of_blades(&mut *tx, id, &ids).await? {
        edits.entry(of).or_default().push(EditFile {
            at: e.at,
            by: e.by,
            changed: e.changed,
        });
    }
    let files = some.into_iter().map(|b| BladeFile {
        plans: plans.remove(&b.id).unwrap_or_default(),
        clay: clays.remove(&b.id),
        edits: edits.remove(&b.id).unwrap_or_default(),
        ready: b.ready,
        bar_id: b.bar_id,
        cut_mm: b.cut_mm,
        mark: b.mark,
        name: b.name,
        steel: b.steel,
        geometry: GeometryFile {
            shape: b.shape,
            length_mm: b.length_mm,
            width_mm: b.width_mm,
            spine_mm: b.spine_mm,
            edge_mm: b.edge_mm,
            grind: b.grind,
        },
        purpose: b.purpose,
        target_low_hrc: b.target_low_hrc,
        target_high_hrc: b.target_high_hrc,
        note: b.note,
        entered_at: b.created_at,
        finished_at: b.finished_at,
    });
    Ok((ids.last().copied(), files.collect()))
}

/// The stations of a shop with their checks.
async fn stations(tx: &mut PgConnection, id: WorkshopId) -> Result<Vec<StationFile>, Problem> {
    let checks = calibration::list(&mut *tx, id).await?;
    let checks_of = |station: Uuid| {
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
            checks: checks_of(s.id),
            id: s.id,
            kind: s.kind,
            name: s.name,
            medium: s.medium,
            litres: s.litres,
            filled_at: s.filled_at,
            curve: s.curve,
            capacity: s.capacity,
            note: s.note,
            retired: s.retired_at.is_some(),
        })
        .collect())
}
