//! Everything that a shop's days hang on, read at once.

use crate::cache_key::hash;
use crate::day::GRID_S;
use crate::day::hours::{Hours, zone};
use crate::materials::names_of;
use crate::predictor::Predictor;
use crate::prepared_blade::PreparedBlade;
use crate::problem::Problem;
use jiff::tz::TimeZone;
use serde::Serialize;
use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::planning::activities::{Need, NoPlace, Origin, Places, PlannedBlade};
use vatten_core::planning::day::{self as asked, Day, Past, Start};
use vatten_core::planning::floor::{Floor, KnownStation, Rates};
use vatten_core::planning::kept::KeptDay;
use vatten_core::planning::lengths::{Lengths, Took};
use vatten_core::planning::plan::Bar;
use vatten_core::planning::problem::{Problem as Layable, Unlayable};
use vatten_core::planning::progress::Pressed;
use vatten_core::planning::rates::rates;
use vatten_core::planning::shop::ShopHours;
use vatten_core::prediction::StationNames;
use vatten_core::process::operator::Operator;
use vatten_core::process::plan::Plan;
use vatten_core::process::station::StationKind;
use vatten_core::process::step::Step;
use vatten_core::quantity::units::{Litres, Quantity, Seconds};
use vatten_store::day::{self, DayBlade, Length, Pin};
use vatten_store::firing::{self, Firing};
use vatten_store::sample::StationNow;
use vatten_store::station::{self, Station};
use vatten_store::{PgPool, WorkshopId, person, sample, trace, workshop};

/// So far ahead a day is laid, s.
const AHEAD_S: i64 = 14 * 86_400;
/// Whoever pressed within this is still there, and stays for so long at least, s.
const PRESENT_S: i64 = 3600;
const STAYS_S: i64 = 4 * 3600;
/// What a device said is believed for so long, s.
const BELIEVED_S: i64 = 600;

/// Why a blade is not on a day though it was put there.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DayTrouble))]
pub enum Trouble {
    /// It has no plan.
    NoPlan {},
    /// Nothing in the shop does a step.
    NoStation {
        /// Position of the step.
        step: usize,
        /// Kind of station.
        kind: StationKind,
        /// Of a tank: with this in it.
        medium: Option<String>,
    },
    /// It goes into no station for a step.
    TooLong {
        /// Position of the step.
        step: usize,
    },
    /// What it is made of is gone.
    Unknown {},
}

/// A blade on the days, as far as it can be.
#[derive(Debug, Clone)]
pub struct OnDay {
    /// As it was put there.
    pub row: DayBlade,
    /// Its steps, in order.
    pub steps: Vec<Step>,
    /// The number of each of them.
    pub order: Vec<usize>,
    /// As the engine has it.
    pub usual: Option<PlannedBlade>,
    /// As it really is here.
    pub planned: Option<PlannedBlade>,
    /// Its firing that goes on.
    pub firing: Option<Firing>,
    /// Why it cannot be laid.
    pub trouble: Option<Trouble>,
    /// It is left hard: no temper after its last quench.
    pub untempered: bool,
}

/// Everything that is known, and the day to be laid. Its seconds count from [`Known::zero_s`].
#[derive(Debug, Clone)]
pub struct Known {
    /// The day's zero, s since 1970.
    pub zero_s: i64,
    /// The shop's zone.
    pub zone: TimeZone,
    /// The blades.
    pub blades: Vec<OnDay>,
    /// The shop's stations.
    pub stations: Vec<Station>,
    /// The shop's floor.
    pub floor: Floor,
    /// Pins that can be.
    pub pins: Vec<Pin>,
    /// The day that people go by, and its version.
    pub kept: (KeptDay, i64),
    /// What is learned of lengths.
    pub lengths: Lengths,
    /// The day to be laid.
    pub day: Day,
}

#[derive(Serialize)]
struct PlannedKey<'a> {
    workshop: Uuid,
    blade: Uuid,
    firing: Option<Uuid>,
    version: i64,
    clay_version: i64,
    records_version: i64,
    steps: &'a [Step],
    places: &'a Places,
    temper_within_s: Seconds,
}

/// A shop's hours; as is usual for one smith before it said any.
///
/// # Errors
/// The database cannot be read.
pub async fn shop_hours(pool: &PgPool, id: WorkshopId) -> Result<(ShopHours, i64), Problem> {
    if let Some(said) = day::hours(pool, id).await? {
        return Ok(said);
    }
    let name = person::first_name(pool, id).await?.unwrap_or_default();
    let short: String = name.chars().take(40).collect();
    let name = Operator::parse(&short).or_else(|_| Operator::parse("Smith"))?;
    Ok((ShopHours::usual(name), 0))
}

fn known_station(
    of: &Station,
    rates: &HashMap<Uuid, Rates>,
    now: &HashMap<Uuid, StationNow>,
    zero: OffsetDateTime,
) -> KnownStation {
    let said = now.get(&of.id).and_then(|n| n.value.zip(n.at));
    let believed = said.filter(|s| (zero - s.1).whole_seconds() < BELIEVED_S);
    KnownStation {
        capacity: of.capacity,
        measured: rates.get(&of.id).copied(),
        medium: of
            .medium
            .as_deref()
            .and_then(vatten_core::material::medium::Medium::parse),
        litres: of.litres.map(Litres::clamped),
        now: believed.map(|s| (s.0, 0)),
        ..KnownStation::of(&of.id.to_string(), of.kind)
    }
}

/// The latest temper comes after the last quench.
fn is_left_hard(steps: &[Step]) -> bool {
    let last = |is: fn(&Step) -> bool| steps.iter().rposition(is);
    let quench = last(|s| matches!(s, Step::Quench { .. }));
    let temper = last(|s| matches!(s, Step::Temper { .. } | Step::TorchTemper { .. }));
    quench.is_some_and(|q| temper.is_none_or(|t| t < q))
}

fn no_station(of: NoPlace) -> Trouble {
    let (kind, medium) = match of.need {
        Need::Fire => (StationKind::Kiln, None),
        Need::Oven => (StationKind::Oven, None),
        Need::Cold => (StationKind::ColdBox, None),
        Need::Bench => (StationKind::Torch, None),
        Need::Tank(medium) => (StationKind::Tank, Some(medium.id().to_owned())),
    };
    Trouble::NoStation {
        step: of.step,
        kind,
        medium,
    }
}

#[derive(Serialize)]
struct RatesKey {
    workshop: Uuid,
    newest: (Option<Uuid>, i64),
}

struct Reading<'a> {
    pool: &'a PgPool,
    predictor: &'a Arc<Predictor>,
    id: WorkshopId,
}

impl Reading<'_> {
    /// A blade's plan as activities: asked of the engine once, and kept.
    async fn planned(
        &self,
        of: &OnDay,
        places: &Places,
        records_version: i64,
        temper_within: Seconds,
    ) -> Result<Result<PlannedBlade, Trouble>, Problem> {
        let firing = of.firing.as_ref();
        let key = hash(&PlannedKey {
            workshop: self.id.uuid(),
            blade: of.row.blade_id,
            firing: firing.map(|f| f.id),
            version: of.row.version,
            clay_version: of.row.clay_version,
            records_version,
            steps: &of.steps,
            places,
            temper_within_s: temper_within,
        });
        let known = match self.predictor.planned_before(&key) {
            Some(known) => known,
            None => {
                let prepared = match firing {
                    Some(f) => PreparedBlade::fired(self.pool, self.id, f.made.clone()).await,
                    None => PreparedBlade::read(self.pool, self.id, of.row.blade_id).await,
                };
                let Ok(prepared) = prepared else {
                    return Ok(Err(Trouble::Unknown {}));
                };
                let asked = prepared.asked(Plan::stored(of.steps.clone()));
                let learned = self.predictor.models.current(self.pool, self.id).await?;
                let places = places.clone();
                self.predictor
                    .plan_blade(key, asked, learned, places, temper_within)
                    .await?
            }
        };
        Ok(match known.as_ref() {
            Ok(planned) => {
                let mut planned = planned.clone();
                planned.blade.id = of.row.blade_id.to_string();
                Ok(planned)
            }
            Err(none) => Err(no_station(*none)),
        })
    }

    /// How fast the shop's fires heat and cool, read anew only when a log came or went.
    async fn rates(&self) -> Result<Arc<HashMap<Uuid, Rates>>, Problem> {
        let key = hash(&RatesKey {
            workshop: self.id.uuid(),
            newest: trace::newest_of_stations(self.pool, self.id).await?,
        });
        if let Some(known) = self.predictor.rates.get(&key) {
            return Ok(known);
        }
        let logs = trace::of_stations(self.pool, self.id).await?;
        let read = move || {
            let mut by: HashMap<Uuid, Vec<Vec<(f64, f64)>>> = HashMap::new();
            for (station, log) in logs {
                let log = log.into_iter().map(|(ms, c)| (ms as f64 * 1e-3, c));
                by.entry(station).or_default().push(log.collect());
            }
            let rates = by
                .into_iter()
                .filter_map(|(id, logs)| Some((id, rates(&logs)?)));
            rates.collect::<HashMap<Uuid, Rates>>()
        };
        let found = Arc::new(self.predictor.compute.run(read).await?);
        self.predictor.rates.put(key, Arc::clone(&found));
        Ok(found)
    }

    async fn blades(&self) -> Result<Vec<OnDay>, Problem> {
        day::clear_fired(self.pool, self.id).await?;
        let rows = day::blades(self.pool, self.id).await?;
        if rows.is_empty() {
            return Ok(Vec::new());
        }
        let open = firing::open(self.pool, self.id).await?;
        let mut open: HashMap<Uuid, Firing> = open.into_iter().map(|f| (f.blade_id, f)).collect();
        let blades = rows.into_iter().map(|row| {
            let firing = open.remove(&row.blade_id);
            let (steps, order) = match &firing {
                Some(f) => {
                    let steps = f.order.iter().filter_map(|n| f.steps.get(*n).cloned());
                    (steps.collect(), f.order.clone())
                }
                None => {
                    let steps = row.steps.clone().unwrap_or_default();
                    let order = (0..steps.len()).collect();
                    (steps, order)
                }
            };
            OnDay {
                untempered: is_left_hard(&steps),
                trouble: steps.is_empty().then_some(Trouble::NoPlan {}),
                row,
                steps,
                order,
                usual: None,
                planned: None,
                firing,
            }
        });
        Ok(blades.collect())
    }
}

/// Reads everything, and makes the day that is to be laid from `now` on.
///
/// # Errors
/// The database cannot be read, or a computation broke off.
pub async fn read(
    pool: &PgPool,
    predictor: &Arc<Predictor>,
    id: WorkshopId,
    now: OffsetDateTime,
) -> Result<Known, Problem> {
    let reading = Reading {
        pool,
        predictor,
        id,
    };
    let mut blades = reading.blades().await?;
    let hours = shop_hours(pool, id).await?;
    let kept = day::kept(pool, id).await?;
    let pins = day::pins(pool, id).await?;
    let stations = station::list(pool, id).await?;
    let says = sample::now(pool, id).await?;
    let shop = workshop::get(pool, id).await?;
    let records_version = workshop::records_version(pool, id).await?;
    let lengths = day::lengths(pool, id).await?;
    let rates = reading.rates().await?;
    let zero_s = now.unix_timestamp().div_euclid(GRID_S) * GRID_S;
    let zero = OffsetDateTime::from_unix_timestamp(zero_s).unwrap_or(now);

    let says: HashMap<Uuid, StationNow> = says.into_iter().map(|s| (s.station_id, s)).collect();
    let used = stations.iter().filter(|s| s.retired_at.is_none());
    let known: Vec<KnownStation> = used
        .map(|s| known_station(s, &rates, &says, zero))
        .collect();
    let all_steps: Vec<&[Step]> = blades.iter().map(|b| b.steps.as_slice()).collect();
    let floor = Floor::of(&known, &all_steps);
    let lengths = Lengths::of(lengths.iter().map(took));
    for blade in &mut blades {
        if blade.trouble.is_some() {
            continue;
        }
        let within = hours.0.temper_within_s;
        let of = reading.planned(blade, &floor.places, records_version, within);
        match of.await? {
            Ok(usual) => {
                let mut planned = lengths.real(&usual, GRID_S);
                let s = |at: OffsetDateTime| at.unix_timestamp() - zero_s;
                planned.blade.release_s = s(blade.row.not_before).max(0);
                planned.blade.due_s = blade.row.due_at.map(s);
                blade.planned = Some(planned);
                blade.usual = Some(usual);
            }
            Err(trouble) => blade.trouble = Some(trouble),
        }
    }
    let zone = zone(&shop.time_zone);
    let asked = Hours {
        zone: &zone,
        from_s: zero_s,
        to_s: zero_s + AHEAD_S,
    };
    let mut operators = asked.operators(&hours.0);
    for operator in &mut operators {
        for (from, to) in operator.hours.iter_mut().chain(&mut operator.breaks) {
            *from -= zero_s;
            *to -= zero_s;
        }
    }
    if let Some((who, pressed_s)) = pressing(&blades, zero_s) {
        stays(&mut operators, who, pressed_s);
    }
    let mut day = Day {
        id: String::new(),
        grid_s: GRID_S,
        now_s: 0,
        horizon_s: AHEAD_S,
        ambient_c: 20.0,
        price: hours.0.price(),
        operators,
        stations: floor.stations.clone(),
        blades: Vec::new(),
        pins: Vec::new(),
        past: Vec::new(),
        before: Vec::new(),
    };
    let before = kept.0.plan(zero_s);
    for blade in &blades {
        if let Some(planned) = &blade.planned {
            day.blades.push(planned.blade.clone());
            day.past.extend(past(blade, &before.bars, zero_s));
        }
    }
    leave_out_what_fits_nowhere(&mut day, &mut blades);
    let pins = pins.into_iter().filter(|p| {
        let blade = blades.iter().find(|b| b.row.blade_id == p.blade_id);
        let planned = blade.and_then(|b| b.planned.as_ref());
        let activity = usize::try_from(p.activity).unwrap_or(usize::MAX);
        planned.is_some_and(|b| activity < b.blade.activities.len())
    });
    let pins: Vec<Pin> = pins.collect();
    day.pins = pins
        .iter()
        .map(|p| start(p.blade_id, p.activity, p.start_at, zero_s))
        .filter(|p| !begun(&day.past, p))
        .collect();
    day.before = before
        .bars
        .iter()
        .filter(|b| {
            day.blades
                .iter()
                .any(|d| d.id == b.blade && b.activity < d.activities.len())
        })
        .map(|b| Start {
            blade: b.blade.clone(),
            activity: b.activity,
            start_s: b.start_s,
        })
        .filter(|s| !begun(&day.past, s))
        .collect();
    Ok(Known {
        zero_s,
        zone,
        blades,
        stations,
        floor,
        pins,
        kept,
        lengths,
        day,
    })
}

/// Who pressed last within the hour, and when.
fn pressing(blades: &[OnDay], zero_s: i64) -> Option<(Option<&str>, i64)> {
    let firings = blades.iter().filter_map(|b| b.firing.as_ref());
    let last = |f: &Firing| pressed_s(f, zero_s).last().copied();
    let presses = firings.filter_map(|f| {
        let who = f.state.operator.as_ref().map(Operator::name);
        Some((who, last(f)?))
    });
    let recent = presses.filter(|p| p.1 > -PRESENT_S);
    recent.max_by_key(|p| p.1)
}

/// Whoever presses is there, whatever the hours say: from a press on for some hours, or until somebody comes.
fn stays(operators: &mut [asked::Operator], who: Option<&str>, pressed_s: i64) {
    let there = |o: &asked::Operator, at_s: i64| o.hours.iter().any(|h| h.0 <= at_s && at_s < h.1);
    if operators.iter().any(|o| there(o, 0)) {
        return;
    }
    let until_s = pressed_s + STAYS_S;
    let named = operators.iter().position(|o| Some(o.id.as_str()) == who);
    let Some(one) = operators.get_mut(named.unwrap_or(0)) else {
        return;
    };
    let next = one.hours.iter().map(|h| h.0).filter(|from| *from > 0).min();
    let until_s = next.map_or(until_s, |next| next.min(until_s));
    one.hours.push((pressed_s.min(0), until_s.max(0)));
    one.hours.sort_unstable();
    one.breaks.retain(|b| b.0 > until_s || b.1 < pressed_s);
}

fn begun(past: &[Past], start: &Start) -> bool {
    past.iter()
        .any(|p| p.blade == start.blade && p.activity >= start.activity)
}

fn start(blade: Uuid, activity: i32, at: OffsetDateTime, zero_s: i64) -> Start {
    let s = (at.unix_timestamp() - zero_s).div_euclid(GRID_S) * GRID_S;
    Start {
        blade: blade.to_string(),
        activity: usize::try_from(activity).unwrap_or_default(),
        start_s: s,
    }
}

fn took(of: &Length) -> Took<'_> {
    Took {
        kind: &of.kind,
        station: of.station.as_deref(),
        usual_s: f64::from(of.usual_s),
        took_s: f64::from(of.took_s),
    }
}

fn pressed_s(firing: &Firing, zero_s: i64) -> Vec<i64> {
    let confirmed = firing.state.confirmed_ms.iter();
    confirmed.map(|ms| ms.div_euclid(1000) - zero_s).collect()
}

/// What was done of a blade, and what goes on.
fn past(of: &OnDay, known: &[Bar], zero_s: i64) -> Vec<Past> {
    let (Some(planned), Some(firing)) = (&of.planned, &of.firing) else {
        return Vec::new();
    };
    let pressed_s = pressed_s(firing, zero_s);
    let pressed = Pressed {
        planned,
        order: &of.order,
        actions: &firing.actions,
        pressed_s: &pressed_s,
    };
    pressed.past(known, 0, GRID_S)
}

/// How long what is over of a blade took.
pub fn lengths_of(of: &OnDay, bars: &[Bar]) -> Vec<Length> {
    let (Some(usual), Some(planned), Some(firing)) = (&of.usual, &of.planned, &of.firing) else {
        return Vec::new();
    };
    let pressed_s = pressed_s(firing, 0);
    let pressed = Pressed {
        planned: usual,
        order: &of.order,
        actions: &firing.actions,
        pressed_s: &pressed_s,
    };
    let length = |(k, took_s, over_s): (usize, i64, i64)| {
        let phase = usual.origins[k].phase;
        let known = |of: &PlannedBlade| {
            vatten_core::planning::lengths::usual_s(&of.blade.activities[k], phase)
        };
        let activity = &usual.blade.activities[k];
        let bar = bars
            .iter()
            .find(|b| b.blade == usual.blade.id && b.activity == k);
        let operator = firing.state.operator.as_ref().map(|o| o.name().to_owned());
        let asked = bar.and_then(|b| b.hands.iter().flatten().next().cloned());
        let int = |s: i64| i32::try_from(s.clamp(0, 1_000_000)).unwrap_or(0);
        Some(Length {
            firing_id: firing.id,
            activity: i32::try_from(k).ok()?,
            kind: activity.kind.clone(),
            station: bar
                .and_then(|b| b.station.clone())
                .or_else(|| activity.at.first().cloned()),
            operator: operator.or(asked),
            usual_s: int(known(usual)?.max(1)),
            took_s: int(took_s),
            planned_s: int(known(planned)?),
            ended_at: OffsetDateTime::from_unix_timestamp(over_s).ok()?,
        })
    };
    pressed.took().into_iter().filter_map(length).collect()
}

/// A blade that is too long for every station it needs is told, and the others are laid.
fn leave_out_what_fits_nowhere(day: &mut Day, blades: &mut [OnDay]) {
    while let Err(why) = Layable::new(day) {
        let (Unlayable::FitsNowhere { blade, activity } | Unlayable::LoadInRun { blade, activity }) =
            why
        else {
            return;
        };
        day.blades.retain(|b| b.id != blade);
        day.past.retain(|p| p.blade != blade);
        for one in blades.iter_mut() {
            if one.row.blade_id.to_string() != blade {
                continue;
            }
            let origin = |p: &PlannedBlade| p.origins.get(activity).copied();
            let step = one.planned.as_ref().and_then(origin);
            one.trouble = Some(Trouble::TooLong {
                step: step.map_or(0, |o: Origin| o.step),
            });
            one.planned = None;
        }
    }
}

/// Names of the stations, for what is printed.
#[must_use]
pub fn station_names(of: &[Station]) -> BTreeMap<String, String> {
    let names: StationNames = names_of(of);
    names
        .into_iter()
        .map(|(id, name)| (id.to_string(), name))
        .collect()
}
