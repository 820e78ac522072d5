//! A day as it is answered: seconds since 1970.

use crate::day::read::{Known, OnDay, Trouble};
use serde::Serialize;
use uuid::Uuid;
use vatten_core::planning::activities::{Origin, Phase};
use vatten_core::planning::cure::ails;
use vatten_core::planning::day::{Unattended, Window};
use vatten_core::planning::heat_line::heat_line;
use vatten_core::planning::kept::News;
use vatten_core::planning::lengths::LearnedLength;
use vatten_core::planning::plan::{Bar, Plan};
use vatten_core::process::station::StationKind;
use vatten_core::process::step::StepKind;

/// A day.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DayView {
    /// Goes up each time it is laid otherwise.
    pub version: i64,
    /// The moment it was laid for.
    pub now_s: i64,
    /// The blades on it, in the order in which they were put there.
    pub blades: Vec<DayBladeView>,
    /// Its stations: those that something is done at, and the others of the shop that could be used.
    pub stations: Vec<DayStationView>,
    /// Who is there when.
    pub operators: Vec<DayOperatorView>,
    /// What is done, in the order of its start.
    pub bars: Vec<DayBarView>,
    /// How good it is.
    pub measures: Measures,
    /// What was other lately, the newest first.
    pub news: Vec<News>,
    /// How long things take here, as far as it was learned.
    pub learned: Vec<LearnedLength>,
}

/// How good a day is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DayMeasures))]
pub struct Measures {
    /// When the last blade is done; now where nothing is to be done.
    pub ends_s: i64,
    /// Blades that are left out.
    pub left_out: i64,
    /// By how much what was pinned or done breaks rules, s.
    pub broken_s: i64,
    /// How late all blades are together, s.
    pub late_s: i64,
    /// Risk beyond what is accepted, parts of a million.
    pub risk_ppm: i64,
    /// Something cannot be: there may be a change that mends it.
    pub ails: bool,
}

impl Measures {
    /// Of a plan whose seconds count from a zero.
    #[must_use]
    pub fn of(plan: &Plan, zero_s: i64) -> Self {
        let score = &plan.score;
        let ends_s = plan.bars.iter().map(|b| b.end_s).max().unwrap_or(0).max(0);
        Self {
            ends_s: ends_s + zero_s,
            left_out: score.left_out,
            broken_s: score.broken_s,
            late_s: score.late_s,
            risk_ppm: score.risk_ppm,
            ails: ails(score),
        }
    }
}

/// A blade on a day.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DayBladeView {
    /// The blade.
    pub blade_id: Uuid,
    /// Its mark.
    pub mark: String,
    /// Not before.
    pub not_before_s: i64,
    /// Wanted by.
    pub due_s: Option<i64>,
    /// Its firing that goes on.
    pub firing_id: Option<Uuid>,
    /// When it is done; none where it is not laid.
    pub done_s: Option<i64>,
    /// It is left out: no room was found for it.
    pub left_out: bool,
    /// Chance that it is spoiled by waits and departures of this day, parts of a million.
    pub risk_ppm: i64,
    /// From the quench until its first temper it lies hard.
    pub hard: Option<[i64; 2]>,
    /// And may lie so for so long, s.
    pub hard_at_most_s: Option<i64>,
    /// Its plan leaves it hard.
    pub untempered: bool,
    /// Why it cannot be laid.
    pub trouble: Option<Trouble>,
}

/// A station on a day.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DayStationView {
    /// Id of the station, or the name of what the shop has not said.
    pub id: String,
    /// What it is; none for the bench.
    pub kind: Option<StationKind>,
    /// Its name, where the shop gave it one.
    pub name: Option<String>,
    /// Of a tank: what is in it.
    pub medium: Option<String>,
    /// The shop has none: it was taken to be there.
    pub presumed: bool,
    /// Blades at once.
    pub places: i64,
    /// It may run with nobody there.
    pub runs_alone: bool,
    /// How long it takes to 800 °C, an oven to 200 °C, s; none of what has no fire.
    pub heats_in_s: Option<f64>,
    /// How hot it is over the day: moments and °C.
    pub heat: Vec<[f64; 2]>,
    /// When it is free for good.
    pub free_s: Option<i64>,
}

/// Somebody on a day.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DayOperatorView {
    /// Who.
    pub name: String,
    /// When they are there.
    pub hours: Vec<[i64; 2]>,
    /// When they are away in between.
    pub breaks: Vec<[i64; 2]>,
}

/// Where a bar stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DayStanding))]
pub enum Standing {
    /// It was done.
    Done,
    /// It goes on.
    Running,
    /// It is to come.
    Coming,
}

/// Something that is done.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DayBarView {
    /// When, where, who and why not earlier.
    #[serde(flatten)]
    pub bar: Bar,
    /// Its step among those of the blade, from 0.
    pub step: usize,
    /// Kind of that step.
    pub step_kind: StepKind,
    /// Which round of a temper or which bath, from 0.
    pub round: usize,
    /// What of the step it is.
    pub phase: Phase,
    /// Where it stands.
    pub standing: Standing,
    /// It is pinned.
    pub pinned: bool,
    /// As planned, °C.
    pub nominal_c: Option<f64>,
    /// What it costs to be hotter or cooler than planned, parts of a million.
    pub departs_ppm: f64,
    /// How much harder it ends for that, HRC; softer where negative.
    pub departs_hrc: f64,
    /// Hands are needed from its start for so long, s.
    pub in_s: i64,
    /// Hands are needed all the while.
    pub attended: bool,
    /// Hands are needed at its end for so long, s.
    pub out_s: i64,
}

fn blade_view(of: &OnDay, known: &Known, plan: &Plan) -> DayBladeView {
    let id = of.row.blade_id.to_string();
    let bars: Vec<&Bar> = plan.bars.iter().filter(|b| b.blade == id).collect();
    let place = known.day.blades.iter().position(|b| b.id == id);
    let risk_ppm = place.and_then(|p| plan.risks_ppm.get(p).copied());
    // The span with a risk runs from the quench to the temper.
    let span = place.and_then(|p| known.day.blades[p].spans.iter().find(|s| s.risk.is_some()));
    let at = |activity: usize| bars.iter().find(|b| b.activity == activity);
    let hard = span.and_then(|s| {
        let (from, to) = (at(s.from)?.end_s, at(s.to)?.start_s);
        Some([from + known.zero_s, to + known.zero_s])
    });
    DayBladeView {
        blade_id: of.row.blade_id,
        mark: of.row.mark.clone(),
        not_before_s: of.row.not_before.unix_timestamp(),
        due_s: of.row.due_at.map(time::OffsetDateTime::unix_timestamp),
        firing_id: of.firing.as_ref().map(|f| f.id),
        done_s: bars.iter().map(|b| b.end_s + known.zero_s).max(),
        left_out: plan.left_out.contains(&id),
        risk_ppm: risk_ppm.unwrap_or(0),
        hard,
        hard_at_most_s: span.map(|s| s.max_s),
        untempered: of.untempered,
        trouble: of.trouble.clone(),
    }
}

fn bar_view(of: &Bar, known: &Known) -> Option<DayBarView> {
    let is = |b: &&OnDay| b.row.blade_id.to_string() == of.blade;
    let blade = known.blades.iter().find(is)?;
    let planned = blade.planned.as_ref()?;
    let activity = planned.blade.activities.get(of.activity)?;
    let Origin { step, round, phase } = *planned.origins.get(of.activity)?;
    let past = &known.day.past;
    let lived = past
        .iter()
        .find(|p| p.blade == of.blade && p.activity == of.activity);
    let standing = match lived {
        Some(p) if p.end_s.is_some() => Standing::Done,
        Some(_) => Standing::Running,
        None => Standing::Coming,
    };
    let departs = activity.temp.zip(of.heat_c);
    Some(DayBarView {
        bar: of.later(known.zero_s),
        step,
        step_kind: blade.steps.get(step)?.kind(),
        round,
        phase,
        standing,
        pinned: known.pins.iter().any(|p| {
            p.blade_id == blade.row.blade_id && usize::try_from(p.activity) == Ok(of.activity)
        }),
        nominal_c: activity.temp.map(|t| t.nominal_c),
        departs_ppm: departs.map_or(0.0, |(t, c)| t.departs_ppm(c)),
        departs_hrc: departs.map_or(0.0, |(t, c)| (c - t.nominal_c) * t.hrc_per_c),
        in_s: activity.in_s,
        attended: activity.attention > 0,
        out_s: activity.out_s,
    })
}

fn station_views(known: &Known, plan: &Plan) -> Vec<DayStationView> {
    let zero_s = known.zero_s;
    let presumed = |id: &str| known.floor.presumed.iter().any(|p| p.id == id);
    let stations = known.day.stations.iter().map(|s| {
        let own = known.stations.iter().find(|k| k.id.to_string() == s.id);
        let medium = known.floor.places.tanks.iter().find(|t| t.0 == s.id);
        let kind = StationKind::parse(&s.kind).ok();
        let here = plan
            .bars
            .iter()
            .filter(|b| b.station.as_ref() == Some(&s.id));
        let up_c = kind.map_or(0.0, vatten_core::planning::floor::heated_to_c) - 20.0;
        DayStationView {
            id: s.id.clone(),
            kind,
            name: own.map(|o| o.name.clone()),
            medium: medium.map(|t| t.1.id().to_owned()),
            presumed: presumed(&s.id),
            places: s.units,
            runs_alone: s.unattended == Unattended::Always,
            heats_in_s: s.fire.map(|f| f.heat_s_per_c * up_c),
            heat: heat_line(&known.day, s, &plan.bars)
                .into_iter()
                .map(|(at, c)| [(at + zero_s) as f64, c])
                .collect(),
            free_s: here.map(|b| b.leave_s + zero_s).max(),
        }
    });
    stations.collect()
}

impl DayView {
    /// Of what is known, laid so.
    #[must_use]
    pub fn of(known: &Known, plan: &Plan) -> Self {
        let zero_s = known.zero_s;
        let mut bars: Vec<&Bar> = plan.bars.iter().collect();
        bars.sort_by_key(|b| (b.start_s, b.end_s));
        let later = |w: &Window| [w.0 + zero_s, w.1 + zero_s];
        let operators = known.day.operators.iter().map(|o| DayOperatorView {
            name: o.id.clone(),
            hours: o.hours.iter().map(later).collect(),
            breaks: o.breaks.iter().map(later).collect(),
        });
        Self {
            version: known.kept.1,
            now_s: zero_s,
            blades: (known.blades.iter())
                .map(|b| blade_view(b, known, plan))
                .collect(),
            stations: station_views(known, plan),
            operators: operators.collect(),
            bars: bars.iter().filter_map(|b| bar_view(b, known)).collect(),
            measures: Measures::of(plan, zero_s),
            news: known.kept.0.news.clone(),
            learned: known.lengths.iter().cloned().collect(),
        }
    }
}
