//! A file brought into a shop: read twice, blade by blade, so that no file is too large to be held, and kept
//! in one transaction, so that it is there whole or not at all.

use super::format::{BladeFile, ExchangeFile, FORMAT, ImportReport, VERSION};
use super::validate::{
    Ids, ReadyBlade, ReadyFiring, ReadyPlan, ReadyStation, check_stations, v7_at,
};
use crate::body::text;
use crate::materials::names_of;
use crate::predictor::{Depth, PredictionRequest, Predictor};
use crate::prepared_blade::PreparedBlade;
use crate::problem::Problem;
use crate::shop_model::{Records, ShopModel, fit};
use rocket::tokio::sync::mpsc;
use rocket::tokio::task::spawn_blocking;
use serde::Deserialize;
use serde::de::{DeserializeSeed, Deserializer, IgnoredAny, MapAccess, SeqAccess, Visitor};
use sqlx::PgConnection;
use std::collections::HashSet;
use std::fs::File;
use std::io::{BufReader, Read};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::material::analysis::Analysis;
use vatten_core::prediction::made::SteelMade;
use vatten_core::process::plan::Plan;
use vatten_core::quantity::validation::{Checker, Fault, Faults};
use vatten_store::archive::{self, PastBlade, PastFiring, PastPlan};
use vatten_store::{
    PgPool, WorkshopId, bar, blade, calibration, day, ladder, method, record, station as stations,
    steel, trial, workshop,
};

/// Up to this many fired blades, a missing prediction is made with the records so far; beyond, by physics
/// alone.
const LEARN_AS_IT_GOES: usize = 200;
/// Faults that are told of one file: with more it is another file that is wanted.
const MOST_FAULTS: usize = 100;
/// Blades that are read ahead.
const AHEAD: usize = 8;

/// Everything of a file but its blades.
type Head = ExchangeFile<Skipped>;

/// Blades that were passed over.
#[derive(Debug, Default)]
pub struct Skipped;

impl<'de> Deserialize<'de> for Skipped {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        IgnoredAny::deserialize(from).map(|_| Self)
    }
}

fn unreadable(field: &str, error: &serde_json::Error) -> Faults {
    let message =
        format!("It cannot be read as a file that Vatten wrote: {error}. Nothing was stored.");
    Faults::one(field, message)
}

/// A part of a file as what it is to be; faults name the place in it.
fn read_part<'de, T: Deserialize<'de>>(
    from: impl Deserializer<'de, Error = serde_json::Error>,
) -> Result<T, Faults> {
    serde_path_to_error::deserialize(from).map_err(|e| {
        let path = e.path().to_string();
        let field = if path == "." { "file" } else { &path };
        unreadable(field, e.inner())
    })
}

/// Hands on the blades of a file one by one; `hand_on` says whether to go on.
struct Blades<'a>(&'a mut dyn FnMut(Result<BladeFile, Faults>) -> bool);

impl<'de> DeserializeSeed<'de> for Blades<'_> {
    type Value = ();
    fn deserialize<D: Deserializer<'de>>(self, from: D) -> Result<(), D::Error> {
        from.deserialize_seq(self)
    }
}

impl<'de> Visitor<'de> for Blades<'_> {
    type Value = ();
    fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("a list of blades")
    }
    fn visit_seq<A: SeqAccess<'de>>(self, mut all: A) -> Result<(), A::Error> {
        let mut go_on = true;
        while let Some(one) = all.next_element::<serde_json::Value>()? {
            go_on = go_on && (self.0)(read_part(one));
        }
        Ok(())
    }
}

/// Passes over everything of a file but its blades.
struct OnlyBlades<'a>(Blades<'a>);

impl<'de> DeserializeSeed<'de> for OnlyBlades<'_> {
    type Value = ();
    fn deserialize<D: Deserializer<'de>>(self, from: D) -> Result<(), D::Error> {
        from.deserialize_map(self)
    }
}

impl<'de> Visitor<'de> for OnlyBlades<'_> {
    type Value = ();
    fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("an exchange file")
    }
    fn visit_map<A: MapAccess<'de>>(self, mut all: A) -> Result<(), A::Error> {
        let mut blades = Some(self.0);
        while let Some(key) = all.next_key::<String>()? {
            match blades.take_if(|_| key == "blades") {
                Some(seed) => all.next_value_seed(seed)?,
                None => all.next_value::<IgnoredAny>().map(|_| ())?,
            }
        }
        Ok(())
    }
}

fn read_blades(
    from: impl Read,
    hand_on: &mut dyn FnMut(Result<BladeFile, Faults>) -> bool,
) -> Result<(), serde_json::Error> {
    let mut reader = serde_json::Deserializer::from_reader(from);
    OnlyBlades(Blades(hand_on)).deserialize(&mut reader)?;
    reader.end()
}

fn read_head(path: &Path) -> Result<Head, Faults> {
    let file = opened(path).map_err(|e| unreadable("file", &e))?;
    read_part(&mut serde_json::Deserializer::from_reader(file))
}

/// The name of the shop that a file came from.
///
/// # Errors
/// It is no such file.
pub fn shop_name(path: &Path) -> Result<String, serde_json::Error> {
    let head: Head = serde_json::from_reader(opened(path)?)?;
    Ok(head.workshop)
}

fn opened(path: &Path) -> Result<BufReader<File>, serde_json::Error> {
    let file = File::open(path).map_err(serde_json::Error::io)?;
    Ok(BufReader::with_capacity(1 << 16, file))
}

/// Brings a file into a shop. Stations, steels, bars, methods and trials of the same name are the same;
/// blades whose mark the shop has are left alone, so a file may be brought in twice. With `shift_to_now` all
/// times move so that the file was written now (the demo stays fresh).
///
/// # Errors
/// Every fault in the file, fields as `blades[3].plans[0].steps[1].temperature_c`; then nothing is
/// stored.
pub async fn import(
    pool: &PgPool,
    predictor: &Predictor,
    id: WorkshopId,
    file: &Path,
    shift_to_now: bool,
) -> Result<ImportReport, Problem> {
    let path = file.to_owned();
    let head = spawn_blocking(move || read_head(&path))
        .await
        .map_err(|_| crate::compute_pool::broken_off())??;
    if head.format != FORMAT || head.version != VERSION {
        let allowed = format!("{FORMAT}, version {VERSION}");
        return Err(
            Faults::with_allowed("format", "This is not a file Vatten wrote.", allowed).into(),
        );
    }
    let shift = if shift_to_now {
        OffsetDateTime::now_utc() - head.exported_at
    } else {
        Duration::ZERO
    };
    let mut tx = pool.begin().await.map_err(vatten_store::Error::from)?;
    // Two imports into one shop follow each other: the second finds what the first brought.
    workshop::lock(&mut tx, id).await?;
    let mut report = ImportReport {
        left_out: head.left_out,
        ..ImportReport::default()
    };
    let mut c = Checker::default();
    let ids = restore_head(&mut tx, id, &head, shift, &mut c, &mut report.known).await?;
    let faults = match c.finish(Some(())) {
        Ok(()) => Vec::new(),
        Err(faults) => faults.0,
    };
    let mut import = Import {
        predictor,
        id,
        taken: blade::marks(&mut *tx, id)
            .await?
            .into_iter()
            .map(|m| m.to_lowercase())
            .collect(),
        seen: HashSet::new(),
        fired: 0,
        ids,
        shift,
    };
    import
        .take_blades(&mut tx, file, faults, &mut report)
        .await?;
    restore_day(&mut tx, id, &head, shift).await?;
    if report.blades > 0 {
        workshop::records_changed(&mut tx, id).await?;
    }
    tx.commit().await.map_err(vatten_store::Error::from)?;
    Ok(report)
}

/// Puts the blades of a file on their days, where the shop has them and they are on none, and keeps its hours where the shop
/// said none.
async fn restore_day(
    tx: &mut PgConnection,
    id: WorkshopId,
    head: &Head,
    shift: Duration,
) -> Result<(), Problem> {
    if let Some(hours) = &head.hours
        && day::hours(&mut *tx, id).await?.is_none()
    {
        let hours = hours.clone().checked().map_err(|f| f.under("hours"))?;
        day::set_hours(&mut *tx, id, &hours, 0).await?;
    }
    if head.day.is_empty() {
        return Ok(());
    }
    let on = day::blades(&mut *tx, id).await?;
    let rack = blade::rack(&mut *tx, id).await?;
    let of_file = head.day.iter().filter_map(|d| {
        let blade = rack.iter().find(|b| same(&b.mark, &d.mark))?;
        Some(day::NewDayBlade {
            blade_id: blade.id,
            not_before: d.not_before + shift,
            due_at: d.due_at.map(|due| due + shift),
        })
    });
    let new: Vec<day::NewDayBlade> = of_file
        .filter(|d| !on.iter().any(|o| o.blade_id == d.blade_id))
        .collect();
    day::add(&mut *tx, id, &new).await?;
    Ok(())
}

fn same(a: &str, b: &str) -> bool {
    a.trim().to_lowercase() == b.trim().to_lowercase()
}

/// Everything but the blades on its way into a shop.
struct HeadImport<'a> {
    tx: &'a mut PgConnection,
    id: WorkshopId,
    head: &'a Head,
    checker: &'a mut Checker,
    /// Names that the shop had already.
    known_names: &'a mut Vec<String>,
    ids: Ids,
    /// What all times are moved by.
    shift: Duration,
}

/// Puts back everything but the blades, as far as the shop has not got it already.
async fn restore_head(
    tx: &mut PgConnection,
    id: WorkshopId,
    head: &Head,
    shift: Duration,
    checker: &mut Checker,
    known_names: &mut Vec<String>,
) -> Result<Ids, Problem> {
    let known = stations::list(&mut *tx, id).await?;
    let (station_ids, new) = check_stations(&known, &head.stations, shift, checker, known_names);
    restore_stations(&mut *tx, id, new).await?;
    let ids = Ids {
        stations: station_ids,
        complete: checker.is_clean(),
        ..Ids::default()
    };
    let mut import = HeadImport {
        tx,
        id,
        head,
        checker,
        known_names,
        ids,
        shift,
    };
    import.steels().await?;
    import.bars().await?;
    import.ids.complete = import.checker.is_clean();
    import.methods().await?;
    import.trials().await?;
    import.ladders().await?;
    Ok(import.ids)
}

impl HeadImport<'_> {
    async fn steels(&mut self) -> Result<(), Problem> {
        let known = steel::list(&mut *self.tx, self.id).await?;
        for (i, s) in self.head.steels.iter().enumerate() {
            let field = format!("steels[{i}]");
            let name = text("name", &s.name, (1, 60)).map_err(|f| f.under(&field));
            let name = self.checker.take(name);
            let analysis = Analysis::parse(&s.analysis);
            let analysis = analysis.map_err(|f| f.under(&format!("{field}.analysis")));
            let analysis = self.checker.take(analysis);
            if let Some(reclaimed) = s.estimate.as_ref().and_then(|e| e.reclaimed.as_ref()) {
                let checked = reclaimed.check();
                let field = format!("{field}.estimate.reclaimed");
                self.checker.take(checked.map_err(|f| f.under(&field)));
            }
            let made = if let Some(of_shop) = known.iter().find(|k| same(&k.name, &s.name)) {
                self.known_names.push(of_shop.name.clone());
                of_shop.made()
            } else if let Some((name, analysis)) = name.zip(analysis) {
                let id = Uuid::now_v7();
                let estimate = s.estimate.clone().map(Box::new);
                let kept = s.estimate.as_ref();
                archive::restore_steel(&mut *self.tx, self.id, id, &name, &analysis, kept).await?;
                SteelMade::House {
                    id,
                    name,
                    analysis,
                    estimate,
                }
            } else {
                continue;
            };
            self.ids.steels.insert(s.id.to_string(), made);
        }
        Ok(())
    }

    async fn bars(&mut self) -> Result<(), Problem> {
        let known = bar::list(&mut *self.tx, self.id).await?;
        for (i, b) in self.head.bars.iter().enumerate() {
            let of_shop = known.iter().find(|k| same(&k.name, &b.name));
            let to = of_shop.map_or_else(Uuid::now_v7, |k| k.id);
            let checked = b.check(to, &self.ids);
            let checked = checked.map_err(|f| f.under(&format!("bars[{i}]")));
            let Some((new, made)) = self.checker.take(checked) else {
                continue;
            };
            match of_shop {
                Some(of_shop) => self.known_names.push(of_shop.name.clone()),
                None => archive::restore_bar(&mut *self.tx, self.id, to, &new).await?,
            }
            self.ids.bars.insert(b.id, made);
        }
        Ok(())
    }

    async fn methods(&mut self) -> Result<(), Problem> {
        let known = method::list(&mut *self.tx, self.id).await?;
        for (i, m) in self.head.methods.iter().enumerate() {
            let checked = m.check(&self.ids);
            let checked = checked.map_err(|f| f.under(&format!("methods[{i}]")));
            let Some((name, note, plan)) = self.checker.take(checked) else {
                continue;
            };
            if known.iter().any(|k| same(&k.name, &name)) {
                self.known_names.push(name);
            } else {
                archive::restore_method(&mut *self.tx, self.id, &name, &note, &plan).await?;
            }
        }
        Ok(())
    }

    async fn trials(&mut self) -> Result<(), Problem> {
        let known = trial::list(&mut *self.tx, self.id).await?;
        for (i, t) in self.head.trials.iter().enumerate() {
            let checked = t.check(&self.ids);
            let checked = checked.map_err(|f| f.under(&format!("trials[{i}]")));
            let Some(past) = self.checker.take(checked) else {
                continue;
            };
            let is_this = |k: &trial::Trial| same(&k.name, &past.name) && k.entries == past.entries;
            if known.iter().any(is_this) {
                self.known_names.push(past.name);
            } else {
                archive::restore_trial(&mut *self.tx, self.id, &past).await?;
            }
        }
        Ok(())
    }
}

impl HeadImport<'_> {
    async fn ladders(&mut self) -> Result<(), Problem> {
        if self.head.ladders.is_empty() {
            return Ok(());
        }
        let known = ladder::list(&mut *self.tx, self.id).await?;
        let stations = stations::list(&mut *self.tx, self.id).await?;
        for (i, l) in self.head.ladders.iter().enumerate() {
            let checked = l.check(&self.ids, &stations);
            let checked = checked.map_err(|f| f.under(&format!("ladders[{i}]")));
            let Some(new) = self.checker.take(checked) else {
                continue;
            };
            let is_this = |k: &ladder::LadderRow| {
                same(&k.of.name, &new.name) && k.of.ladder.rungs == new.ladder.rungs
            };
            if known.iter().any(is_this) {
                self.known_names.push(new.name);
            } else {
                let at = l.began_at + self.shift;
                archive::restore_ladder(&mut *self.tx, self.id, &new, v7_at(at, i), at).await?;
            }
        }
        Ok(())
    }
}

/// Puts the stations of an import back.
async fn restore_stations(
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

/// An import on its way.
struct Import<'a> {
    predictor: &'a Predictor,
    id: WorkshopId,
    /// Marks that the shop has already.
    taken: HashSet<String>,
    /// Marks of the file so far.
    seen: HashSet<String>,
    /// Fired blades so far.
    fired: usize,
    ids: Ids,
    shift: Duration,
}

impl Import<'_> {
    /// Checks and keeps the blades of a file one by one, while the next are read. `faults` are those of its
    /// head: one fault is enough for nothing to be kept, the others are only looked for.
    async fn take_blades(
        &mut self,
        tx: &mut PgConnection,
        file: &Path,
        mut faults: Vec<Fault>,
        report: &mut ImportReport,
    ) -> Result<(), Problem> {
        let (send, mut blades) = mpsc::channel(AHEAD);
        let path: PathBuf = file.to_owned();
        let reading = spawn_blocking(move || {
            read_blades(opened(&path)?, &mut |one| send.blocking_send(one).is_ok())
        });
        let mut position = 0;
        while let Some(one) = blades.recv().await {
            let under = format!("blades[{position}]");
            position += 1;
            match one.and_then(|one| self.check(&one)) {
                Ok(ready) if faults.is_empty() => self.keep(tx, ready, report).await?,
                Ok(_) => {}
                Err(found) => faults.extend(found.under(&under).0),
            }
            if faults.len() >= MOST_FAULTS {
                blades.close();
            }
        }
        drop(blades);
        let read = reading
            .await
            .map_err(|_| crate::compute_pool::broken_off())?;
        if !faults.is_empty() {
            faults.truncate(MOST_FAULTS);
            return Err(Faults(faults).into());
        }
        read.map_err(|e| unreadable("file", &e))?;
        Ok(())
    }

    fn check(&mut self, one: &BladeFile) -> Result<ReadyBlade, Faults> {
        if !self.seen.insert(one.mark.trim().to_lowercase()) {
            let message = "Two blades of the file have this mark.";
            return Err(Faults::one("mark", message));
        }
        one.check(&self.ids, self.shift)
    }

    async fn keep(
        &mut self,
        tx: &mut PgConnection,
        ready: ReadyBlade,
        report: &mut ImportReport,
    ) -> Result<(), Problem> {
        if self.taken.contains(&ready.new.mark.to_lowercase()) {
            report.skipped.push(ready.new.mark);
            return Ok(());
        }
        let mut plans = Vec::with_capacity(ready.plans.len());
        for ReadyPlan { plan, firing } in ready.plans {
            let firing = match firing {
                Some(firing) => Some(self.fired(tx, &plan, firing).await?),
                None => None,
            };
            plans.push(PastPlan { plan, firing });
        }
        let past = PastBlade {
            new: ready.new,
            entered_at: ready.entered_at,
            finished_at: ready.finished_at,
            clay: ready.clay.map(|c| (c.clay, c.wanted)),
            plans,
            edits: ready.edits,
        };
        let blade_id = v7_at(ready.entered_at, self.seen.len());
        archive::restore_blade(tx, self.id, blade_id, &past).await?;
        report.blades += 1;
        Ok(())
    }

    /// A firing with the checks that were in force and the prediction that was made, as far as the file did
    /// not say.
    async fn fired(
        &mut self,
        tx: &mut PgConnection,
        plan: &Plan,
        mut ready: ReadyFiring,
    ) -> Result<PastFiring, Problem> {
        self.fired += 1;
        if !ready.has_checks {
            let checks = calibration::checks(&mut *tx, self.id).await?;
            ready.made.checks = checks.at(ready.started_at.unix_timestamp());
        }
        let prediction = match ready.prediction {
            Some(known) => known,
            None => {
                let all = stations::list(&mut *tx, self.id).await?;
                let names = names_of(&all);
                let asked = PreparedBlade::new(ready.made.clone(), all, true)?.asked(plan.clone());
                self.predict(tx, asked, names).await?
            }
        };
        Ok(PastFiring {
            id: v7_at(ready.started_at, self.fired),
            started_at: ready.started_at,
            prediction,
            made: ready.made,
            events: ready.events,
            readings: ready.readings,
            findings: ready.findings,
        })
    }

    async fn predict(
        &self,
        tx: &mut PgConnection,
        asked: PredictionRequest,
        names: vatten_core::prediction::StationNames,
    ) -> Result<vatten_core::prediction::Prediction, Problem> {
        if self.fired > LEARN_AS_IT_GOES {
            let nothing = ShopModel {
                names,
                ..ShopModel::default()
            };
            let depth = Depth::Hardness;
            return self
                .predictor
                .predict(asked, Arc::new(nothing), depth)
                .await;
        }
        let records = Records::read(tx, self.id).await?;
        let physics = Arc::clone(&self.predictor.models.physics);
        let learned = self
            .predictor
            .compute
            .run(move || fit(records, &physics))
            .await?;
        record::keep_simulated(tx, self.id, &learned.simulated).await?;
        let depth = Depth::Whole(vatten_core::simulation::simulated::STEP_MM);
        self.predictor
            .predict(asked, Arc::new(learned.model), depth)
            .await
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use vatten_core::record::firing::FiringEvent;
    use vatten_store::firing::Past;

    fn marks(text: &str) -> Result<Vec<String>, serde_json::Error> {
        let mut all = Vec::new();
        read_blades(text.as_bytes(), &mut |one| {
            all.push(one.unwrap().mark);
            true
        })?;
        Ok(all)
    }

    const BLADE: &str = r#"{"mark":"K-1","name":"x","steel":"1084","purpose":"all_round",
        "geometry":{"shape":"plain","length_mm":180,"width_mm":30,"spine_mm":4,"edge_mm":0.8,"grind":"flat"},
        "target_low_hrc":59,"target_high_hrc":61,"entered_at":"2026-11-01T10:00:00Z"}"#;

    #[test]
    fn blades_are_read_wherever_they_stand_in_the_file() {
        let other = BLADE.replace("K-1", "K-2");
        let before = format!(r#"{{"blades":[{BLADE},{other}],"workshop":"x","stations":[{{}}]}}"#);
        let after = format!(r#"{{"workshop":"x","stations":[{{}}],"blades":[{BLADE},{other}]}}"#);
        for text in [&before, &after] {
            assert_eq!(marks(text).unwrap(), ["K-1", "K-2"]);
        }
        assert_eq!(marks("{}").unwrap(), Vec::<String>::new());
    }

    #[test]
    fn a_file_cut_anywhere_is_no_file() {
        let whole = format!(r#"{{"workshop":"x","blades":[{BLADE}]}}"#);
        for at in 1..whole.len() {
            assert!(marks(&whole[..at]).is_err(), "{at}");
        }
        assert!(marks(&format!("{whole}{{")).is_err());
    }

    /// Files of before 2026-11-30 say it in other words.
    #[test]
    fn events_of_an_older_file_are_the_same_events() {
        let file = |events: &str| {
            let plan = format!(
                r#""plans":[{{"steps":[{{"kind":"austenitize","temperature_c":800,"soak_s":300}},
                {{"kind":"quench","stages":[{{"medium":"fast_oil"}}]}}],
                "firing":{{"started_at":"2026-11-02T10:00:00Z","events":[{events}]}}}}],"#
            );
            let text = BLADE.replace("\"entered_at\"", &format!("{plan}\"entered_at\""));
            let text = format!(r#"{{"workshop":"x","blades":[{text}]}}"#);
            let mut events: Vec<Past> = Vec::new();
            let read = read_blades(text.as_bytes(), &mut |one| {
                let blade = one.and_then(|b| b.check(&Ids::default(), Duration::ZERO));
                let plans = blade.unwrap().plans;
                events = plans
                    .into_iter()
                    .flat_map(|p| p.firing.unwrap().events)
                    .collect();
                true
            });
            read.unwrap();
            // Ids are made anew at every reading: what is taken back goes by its place.
            let place = |id| events.iter().position(|e| e.id == id);
            let kinds = events.iter().map(|e| match &e.what {
                FiringEvent::Undo { event } => format!("undo {:?}", place(*event)),
                other => format!("{other:?}"),
            });
            kinds.collect::<Vec<_>>()
        };
        let at = r#""at":"2026-11-02T10:05:00Z""#;
        let older = file(&format!(
            r#"{{{at},"happening":{{"kind":"hand","name":"Tove"}}}},
            {{{at},"happening":{{"kind":"confirm","beat":0}}}},
            {{{at},"happening":{{"kind":"undo","beat":0}}}},
            {{{at},"happening":{{"kind":"confirm","beat":0}}}}"#
        ));
        let id = "00000000-0000-7000-8000-000000000009";
        let newer = file(&format!(
            r#"{{{at},"what":{{"kind":"operator","name":"Tove"}}}},
            {{{at},"id":"{id}","what":{{"kind":"confirm","action":0}}}},
            {{{at},"what":{{"kind":"undo","event":"{id}"}}}},
            {{{at},"what":{{"kind":"confirm","action":0}}}}"#
        ));
        assert_eq!(older[2], "undo Some(1)");
        assert_eq!(older, newer);
    }

    /// A whole file of the demo's, with a piece of nonsense at every other place: read or refused, never more.
    #[test]
    fn no_text_breaks_the_reader() {
        const PIECES: [&str; 9] = [
            "1e308",
            "-1",
            "null",
            "[",
            "}",
            "\"",
            "\\u0000",
            "\"x\":1,",
            "2026-02-30",
        ];
        let plan = r#""plans":[{"steps":[{"kind":"austenitize","temperature_c":800,"soak_s":300},
            {"kind":"quench","stages":[{"medium":"water","for_s":3},{"medium":"fast_oil"}]}],
            "firing":{"started_at":"2026-11-02T10:00:00Z","events":[{"at":"2026-11-02T10:05:00Z",
            "what":{"kind":"confirm","action":0}}],"readings":[]}}]"#;
        let blade = BLADE.replace("\"entered_at\"", &format!("{plan},\"entered_at\""));
        let whole = format!(r#"{{"workshop":"x","blades":[{blade}]}}"#);
        let (mut good, mut refused) = (0, 0);
        for at in (0..whole.len()).filter(|at| at % 2 == 0 && whole.is_char_boundary(*at)) {
            for piece in PIECES {
                let text = format!("{}{piece}{}", &whole[..at], &whole[at..]);
                let read = read_blades(text.as_bytes(), &mut |one| {
                    let checked = one.and_then(|b| b.check(&Ids::default(), Duration::ZERO));
                    let tally = if checked.is_ok() {
                        &mut good
                    } else {
                        &mut refused
                    };
                    *tally += 1;
                    true
                });
                refused += usize::from(read.is_err());
            }
        }
        assert!(
            good > 20 && refused > good,
            "{good} read, {refused} refused"
        );
    }
}
