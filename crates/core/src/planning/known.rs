//! The plan that people go by, as a genome: the same loads, places, hands and order, and nothing earlier than it was. Laid
//! again after a press it is the same day, moved by as little as has to be.

use crate::planning::day::Day;
use crate::planning::genome::{BEARS_ALL, Genome, Unit};
use crate::planning::plan::{Bar, Plan};
use crate::planning::problem::Problem;
use std::collections::BTreeMap;

/// Units of a plan in the making: where and when a load begins, and its unit.
type Begun = (i64, Option<usize>, Unit);

impl Genome {
    /// Of a plan of this day, or of the day as it was before something happened: what is not in it comes first.
    #[must_use]
    pub fn known(day: &Day, problem: &Problem, plan: &Plan) -> Self {
        let mut genome = Self::new(problem, Vec::new(), BEARS_ALL);
        genome.reluctance.fill(0);
        // Start and, of a load, station and temperature of each run.
        let mut runs: BTreeMap<usize, (i64, Option<(usize, i32)>)> = BTreeMap::new();
        for bar in &plan.bars {
            let Some(k) = task_of(day, problem, bar) else {
                continue;
            };
            let task = &problem.tasks[k];
            let operator = |who: &Option<String>| {
                let mut all = day.operators.iter();
                let who = who.as_deref()?;
                all.position(|o| o.id == who)
            };
            genome.leaves_s[k] = (bar.leave_s - problem.now_s).max(0);
            for (asked, who) in genome.asked[k].iter_mut().zip(&bar.hands) {
                *asked = operator(who);
            }
            if task.lived.is_some() {
                // It leaves when it was to.
                genome.known_s[k] = Some(1);
                continue;
            }
            genome.known_s[k] = Some((bar.start_s - problem.now_s).max(0));
            let mut stations = day.stations.iter();
            let place = bar.station.as_deref();
            let place = place.and_then(|id| stations.position(|s| s.id == id));
            let heat_c = bar.heat_c.map(|c| c as i32);
            let run = &problem.runs[task.run];
            let begins = run.load && run.first == k;
            if !begins {
                genome.place[k] = place.filter(|p| task.at.contains(p));
                genome.heat_c[k] = heat_c;
            }
            let load = place.zip(heat_c).filter(|_| begins);
            let known = runs.entry(task.run).or_insert((bar.start_s, load));
            known.0 = known.0.min(bar.start_s);
            known.1 = known.1.or(load);
        }
        let mut begun: Vec<Begun> = Vec::new();
        for r in 0..problem.runs.len() {
            let Some((start_s, load)) = runs.get(&r).copied() else {
                begun.push((problem.now_s - 1, None, Unit::of(r)));
                continue;
            };
            let place = load.map(|l| l.0);
            let mut mates = begun.iter_mut();
            let mate = mates.find(|b| place.is_some() && b.0 == start_s && b.1 == place);
            if let Some(mate) = mate {
                mate.2.runs.push(r);
                continue;
            }
            let mut unit = Unit::of(r);
            unit.place = place;
            unit.heat_c = load.map(|l| l.1);
            begun.push((start_s, place, unit));
        }
        begun.sort_by_key(|b| b.0);
        genome.units = begun.into_iter().map(|b| b.2).collect();
        // Out of a load in the order in which what follows begins.
        for unit in &mut genome.units {
            let follows = |r: &usize| genome.known_s.get(problem.runs[*r].first + 1).copied();
            unit.runs.sort_by_key(|r| (follows(r).flatten(), *r));
        }
        genome
    }
}

fn task_of(day: &Day, problem: &Problem, bar: &Bar) -> Option<usize> {
    let piece = day.blades.iter().position(|b| b.id == bar.blade)?;
    let of = &problem.pieces[piece];
    let k = of.first + bar.activity;
    (k <= of.last).then_some(k)
}
