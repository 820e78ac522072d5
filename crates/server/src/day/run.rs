//! Laying a shop's days: again after something happened, anew when what is asked changed.

use crate::day::calendar::calendar;
use crate::day::read::{Known, lengths_of, read, station_names};
use crate::day::view::{DayView, Measures};
use crate::model_cache::ShopLocks;
use crate::predictor::Predictor;
use crate::problem::Problem;
use serde::Serialize;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use time::OffsetDateTime;
use vatten_core::planning::changes::{Change, changes};
use vatten_core::planning::cure::{Relaxation, ails, cures, late_alone, relaxed};
use vatten_core::planning::day::Day;
use vatten_core::planning::genome::Genome;
use vatten_core::planning::kept::KeptDay;
use vatten_core::planning::plan::Plan;
use vatten_core::planning::problem::Problem as Layable;
use vatten_core::planning::score::Score;
use vatten_core::planning::search::{Budget, search};
use vatten_store::{Error, PgPool, WorkshopId, day, workshop};

/// One laying of a shop's days at a time.
#[derive(Debug, Default)]
pub struct DayLocks(ShopLocks);

/// How much may be spent.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Asked {
    /// The known day laid again; searched from there only where something moved.
    Again,
    /// What is asked changed: searched for a good day.
    Anew,
    /// A good day whatever people went by so far.
    FromNothing,
}

/// Passes that may be spent for each task of a day, within bounds: about a third of a second on a day of twelve blades.
const PASSES_ANEW: (u64, u64, u64) = (240_000, 300, 2500);
const PASSES_AGAIN: (u64, u64, u64) = (60_000, 80, 500);
/// A search replaces what people go by only where it wins so much, s.
const WORTH_S: i64 = 900;
/// All the while the same question has the same answer.
const SEED: u64 = 1;

fn passes(tasks: usize, (all, least, most): (u64, u64, u64)) -> u64 {
    (all / tasks.max(1) as u64).clamp(least, most)
}

/// Whether a day is so much better that people have to hear of it.
fn is_worth(before: &Score, after: &Score) -> bool {
    let levels = |s: &Score| (s.left_out, s.broken_s, s.risk_ppm, s.late_s);
    levels(after) < levels(before)
        || (levels(after) == levels(before) && after.cost_s + WORTH_S <= before.cost_s)
}

/// A day laid, as much as was asked. None where it cannot be laid at all.
fn laid(day: &Day, before: &Plan, asked: Asked, stop: &AtomicBool) -> Option<Plan> {
    let problem = Layable::new(day).ok()?;
    let tasks = problem.tasks.len();
    let known = Genome::known(day, &problem, before);
    let again = Plan::of(day, &problem, &known).bound_as(before);
    let (budget, known) = match asked {
        Asked::Again if changes(&before.bars, &again.bars, 0).is_empty() => return Some(again),
        Asked::Again => (PASSES_AGAIN, vec![known]),
        Asked::Anew => (PASSES_ANEW, vec![known]),
        Asked::FromNothing => (PASSES_ANEW, Vec::new()),
    };
    let budget = Budget {
        passes: passes(tasks, budget),
        seed: SEED,
        known,
    };
    let stopped = || stop.load(Ordering::Relaxed);
    let mut found = search(&problem, &budget, stopped);
    if asked == Asked::Anew && ails(&found.score) {
        // What people went by may be far from what can be.
        let free = Budget {
            known: Vec::new(),
            ..budget
        };
        let other = search(&problem, &free, stopped);
        if other.score < found.score {
            found = other;
        }
    }
    let better = match asked {
        Asked::Again => is_worth(&again.score, &found.score),
        Asked::Anew => found.score < again.score,
        Asked::FromNothing => true,
    };
    Some(if better {
        Plan::of(day, &problem, &found.genome)
    } else {
        again
    })
}

/// Where a day is asked for.
#[derive(Clone, Copy)]
pub struct Shop<'a> {
    /// The database.
    pub pool: &'a PgPool,
    /// What computes.
    pub predictor: &'a Arc<Predictor>,
    /// The shop.
    pub id: WorkshopId,
}

impl Shop<'_> {
    async fn lay(&self, known: Known, asked: Asked) -> Result<(Known, Plan), Problem> {
        let before = known.kept.0.plan(known.zero_s);
        let lay = move |stop: &AtomicBool| {
            let mut known = known;
            if asked == Asked::FromNothing {
                known.day.before.clear();
            }
            let plan = laid(&known.day, &before, asked, stop);
            Ok((known, plan))
        };
        let (known, plan) = self.predictor.compute.run_stoppable(lay).await?;
        let plan = plan.unwrap_or_else(|| Plan::known(Vec::new()));
        Ok((known, plan))
    }

    /// The day as it is now: laid again, told what is other, and kept.
    async fn now(&self, asked: Asked, when: OffsetDateTime) -> Result<(Known, Plan), Problem> {
        let locked = self.predictor.days.0.lock_of(self.id).lock_owned().await;
        let known = read(self.pool, self.predictor, self.id, when).await?;
        let before = known.kept.0.plan(known.zero_s);
        let left_out = &known.kept.0.left_out;
        let has = |id: &String| left_out.contains(id) || before.bars.iter().any(|b| b.blade == *id);
        let all_known = known.day.blades.iter().all(|b| has(&b.id));
        let asked = match asked {
            Asked::Again if all_known => Asked::Again,
            _ if before.bars.is_empty() => Asked::FromNothing,
            Asked::Again => Asked::Anew,
            asked => asked,
        };
        let (mut known, plan) = self.lay(known, asked).await?;
        let told = changes(&before.bars, &plan.bars, 0);
        let same = told.is_empty() && before.bars.len() == plan.bars.len();
        if !same || asked != Asked::Again {
            let zero_s = known.zero_s;
            let mut kept = KeptDay {
                bars: plan.bars.iter().map(|b| b.later(zero_s)).collect(),
                left_out: plan.left_out.clone(),
                news: std::mem::take(&mut known.kept.0.news),
            };
            let told = told.into_iter().map(|c| at(c, zero_s)).collect();
            kept.tell(zero_s, told);
            match day::keep(self.pool, self.id, &kept, known.kept.1).await {
                Ok(version) => known.kept = (kept, version),
                // Another process laid it meanwhile: theirs is as good.
                Err(Error::Stale) => known.kept.0 = kept,
                Err(other) => return Err(other.into()),
            }
        }
        drop(locked);
        Ok((known, plan))
    }
}

/// The same with moments in seconds since 1970.
fn at(change: Change, zero_s: i64) -> Change {
    match change {
        Change::Free {
            station,
            at_s,
            by_s,
        } => Change::Free {
            station,
            at_s: at_s + zero_s,
            by_s,
        },
        other => other,
    }
}

/// The day as it is now.
///
/// # Errors
/// The database cannot be read, or a computation broke off.
pub async fn current(shop: Shop<'_>) -> Result<DayView, Problem> {
    let (known, plan) = shop.now(Asked::Again, OffsetDateTime::now_utc()).await?;
    Ok(DayView::of(&known, &plan))
}

/// The day as it is now, as a calendar under the name of the shop.
///
/// # Errors
/// As [`current`].
pub async fn calendar_of(shop: Shop<'_>) -> Result<String, Problem> {
    let (known, plan) = shop.now(Asked::Again, OffsetDateTime::now_utc()).await?;
    let of = workshop::get(shop.pool, shop.id).await?;
    let names = station_names(&known.stations);
    let day = DayView::of(&known, &plan);
    Ok(calendar(&day, &of.name, &known.zone, &names))
}

/// A day of which what is asked changed.
///
/// # Errors
/// As [`current`].
pub async fn lay_anew(shop: Shop<'_>, asked: Asked) -> Result<DayView, Problem> {
    let (known, plan) = shop.now(asked, OffsetDateTime::now_utc()).await?;
    Ok(DayView::of(&known, &plan))
}

/// After a press: the day is laid again, and how long things took is kept.
pub async fn mend(pool: PgPool, predictor: Arc<Predictor>, id: WorkshopId) {
    let shop = Shop {
        pool: &pool,
        predictor: &predictor,
        id,
    };
    match day::any(&pool, id).await {
        Ok(true) => {}
        Ok(false) => return,
        Err(error) => return tracing::warn!("the day was not read: {error}"),
    }
    let mended = async {
        let (known, plan) = shop.now(Asked::Again, OffsetDateTime::now_utc()).await?;
        let of = known.blades.iter().flat_map(|b| lengths_of(b, &plan.bars));
        let lengths: Vec<_> = of.collect();
        if !lengths.is_empty() {
            let mut connection = pool.acquire().await.map_err(Error::from)?;
            day::keep_lengths(&mut connection, id, &lengths).await?;
        }
        Ok::<(), Problem>(())
    };
    if let Err(problem) = mended.await {
        tracing::warn!("the day was not laid again: {}", problem.title);
    }
}

/// What would be, if.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DayWhatIf))]
pub struct WhatIf {
    /// As it is.
    pub now: Measures,
    /// As it would be.
    pub then: Measures,
}

/// What a change would do to the day; nothing is kept.
///
/// # Errors
/// As [`current`].
pub async fn what_if(shop: Shop<'_>, gives: Relaxation) -> Result<WhatIf, Problem> {
    let (known, plan) = shop.now(Asked::Again, OffsetDateTime::now_utc()).await?;
    let now = Measures::of(&plan, known.zero_s);
    let zero_s = known.zero_s;
    let other = shop.predictor.compute.run_stoppable(move |stop| {
        let other = relaxed(&known.day, &gives);
        Ok(laid(&other, &plan, Asked::Anew, stop))
    });
    let then = other.await?.map_or(now, |p| Measures::of(&p, zero_s));
    Ok(WhatIf { now, then })
}

/// A change that mends what cannot be.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CureView {
    /// What is given.
    pub gives: Relaxation,
    /// Nothing is left out, broken or late any more.
    pub cures: bool,
    /// Lateness that is left, s.
    pub late_s: i64,
    /// Blades that are left out then.
    pub left_out: i64,
    /// By how much rules are broken then, s.
    pub broken_s: i64,
}

/// What would mend a day on which something cannot be.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DayCures))]
pub struct Cures {
    /// Changes that help, those that cure it first.
    pub cures: Vec<CureView>,
    /// Blades that would be late if nothing else were on the day: no order cures that.
    pub late_alone: Vec<String>,
}

/// What mends a day on which something cannot be.
///
/// # Errors
/// As [`current`].
pub async fn cures_of(shop: Shop<'_>) -> Result<Cures, Problem> {
    let (known, plan) = shop.now(Asked::Again, OffsetDateTime::now_utc()).await?;
    let found = shop.predictor.compute.run_stoppable(move |stop| {
        let stopped = || stop.load(Ordering::Relaxed);
        let late = late_alone(&known.day, &plan, stopped);
        Ok((cures(&known.day, &plan, stopped), late))
    });
    let (found, late_alone) = found.await?;
    let cures = found.into_iter().map(|c| CureView {
        gives: c.gives,
        cures: c.cures,
        late_s: c.score.late_s,
        left_out: c.score.left_out,
        broken_s: c.score.broken_s,
    });
    Ok(Cures {
        cures: cures.collect(),
        late_alone,
    })
}
