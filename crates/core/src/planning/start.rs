//! First genomes: blades in an order, loads put together greedily, tempers gathered in few heats.

use crate::planning::genome::{Genome, Unit};
use crate::planning::layout::load_heat;
use crate::planning::problem::{NEVER, Problem};

/// In what order blades are taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Order {
    /// As they are given.
    Given,
    /// First what is wanted first.
    Due,
    /// First what takes longest.
    Long,
    /// By the temperature of their last load.
    Heat,
}

/// Which loads are put together.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Share {
    /// None.
    Alone,
    /// Of the same temperature.
    SameHeat,
    /// Where one temperature lies in all windows.
    AnyHeat,
}

/// A way to begin.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Begin {
    /// In what order.
    pub order: Order,
    /// All blades step by step, instead of blade by blade.
    pub by_step: bool,
    /// Which loads are put together.
    pub share: Share,
    /// At most so many blades in one.
    pub most: usize,
    /// In [`crate::planning::genome::TOLERANCE_S`].
    pub tolerance: u8,
    /// Tempers are gathered in few heats.
    pub gather: bool,
}

const fn begin(
    order: Order,
    by_step: bool,
    share: Share,
    most: usize,
    tolerance: u8,
    gather: bool,
) -> Begin {
    Begin {
        order,
        by_step,
        share,
        most,
        tolerance,
        gather,
    }
}

/// Ways to begin that together stand best over many days, the best first.
pub const BEGINS: [Begin; 13] = [
    begin(Order::Heat, true, Share::AnyHeat, 2, 4, true),
    begin(Order::Due, true, Share::AnyHeat, 2, 4, true),
    begin(Order::Long, false, Share::AnyHeat, 2, 4, true),
    begin(Order::Given, false, Share::AnyHeat, 9, 4, true),
    begin(Order::Long, false, Share::AnyHeat, 4, 4, true),
    begin(Order::Heat, true, Share::AnyHeat, 3, 2, false),
    begin(Order::Given, false, Share::AnyHeat, 9, 2, false),
    begin(Order::Given, false, Share::SameHeat, 9, 2, false),
    begin(Order::Given, true, Share::AnyHeat, 2, 4, true),
    begin(Order::Heat, false, Share::Alone, 1, 2, false),
    begin(Order::Due, false, Share::AnyHeat, 2, 4, true),
    begin(Order::Heat, true, Share::AnyHeat, 3, 4, true),
    begin(Order::Due, false, Share::Alone, 1, 4, true),
];

/// Whether runs can go in one load at some station.
#[must_use]
pub fn fits(problem: &Problem, runs: &[usize]) -> bool {
    let first = |r: &usize| &problem.tasks[problem.runs[*r].first];
    let Some(lead) = runs.first().map(first) else {
        return false;
    };
    let holds = |place: &usize| {
        let units = |r: &usize| problem.units(problem.runs[*r].piece, *place);
        runs.iter().all(|r| first(r).at.contains(place))
            && runs.iter().map(units).sum::<i64>() <= problem.places[*place].units
    };
    load_heat(problem, runs, None).is_some() && lead.at.iter().any(holds)
}

/// Tasks at a fire with a window that begin no load and are not done.
#[must_use]
pub fn tempers(problem: &Problem) -> Vec<usize> {
    let is_one = |k: &usize| {
        let task = &problem.tasks[*k];
        let run = &problem.runs[task.run];
        task.heat.is_some() && task.lived.is_none() && !(run.load && run.first == *k)
    };
    (0..problem.tasks.len()).filter(is_one).collect()
}

fn ordered(problem: &Problem, order: Order) -> Vec<usize> {
    let mut pieces: Vec<usize> = (0..problem.pieces.len()).collect();
    let takes_s = |p: usize| {
        let of = &problem.pieces[p];
        let tasks = &problem.tasks[of.first..=of.last];
        tasks.iter().map(|t| t.least_s()).sum::<i64>()
    };
    let last_heat = |p: usize| {
        let loads = problem.pieces[p].runs.iter().rev();
        let load = loads.map(|r| &problem.runs[*r]).find(|r| r.load);
        load.and_then(|r| problem.tasks[r.first].heat)
            .map_or(0.0, |h| h.nominal_c)
    };
    match order {
        Order::Given => {}
        Order::Due => pieces.sort_by_key(|p| problem.pieces[*p].due_s.unwrap_or(NEVER)),
        Order::Long => pieces.sort_by_key(|p| -takes_s(*p)),
        Order::Heat => pieces.sort_by(|a, b| last_heat(*a).total_cmp(&last_heat(*b))),
    }
    pieces
}

/// How many loads of its blade come after a run: hardening meets hardening.
fn loads_after(problem: &Problem, run: usize) -> usize {
    let of = &problem.runs[run];
    let runs = problem.pieces[of.piece].runs.iter();
    let later = runs.filter(|r| **r > run && problem.runs[**r].load);
    later.count()
}

fn shared(problem: &Problem, units: &mut Vec<Unit>, share: Share, most: usize) {
    let nominal = |r: usize| {
        problem.tasks[problem.runs[r].first]
            .heat
            .map(|h| h.nominal_c)
    };
    let mut n = 0;
    while n < units.len() {
        let lead = units[n].runs[0];
        let mut m = n + 1;
        while problem.runs[lead].load && m < units.len() && units[n].runs.len() < most {
            let run = units[m].runs[0];
            let of = &problem.runs[run];
            let another = |r: &usize| problem.runs[*r].piece != of.piece;
            let goes = units[m].runs.len() == 1
                && of.load
                && units[n].runs.iter().all(another)
                && loads_after(problem, run) == loads_after(problem, lead)
                && (share == Share::AnyHeat || nominal(run) == nominal(lead));
            if goes {
                let mut all = units[n].runs.clone();
                all.push(run);
                if fits(problem, &all) {
                    units[n].runs = all;
                    units.remove(m);
                    continue;
                }
            }
            m += 1;
        }
        n += 1;
    }
}

/// The fewest temper heats that lie in all windows, each the cheapest of five degrees.
fn gather(problem: &Problem, genome: &mut Genome) {
    const STEP_C: f64 = 5.0;
    let heat = |k: usize| problem.tasks[k].heat;
    let mut open = tempers(problem);
    let high = |k: &usize| heat(*k).map_or(0.0, |h| h.high_c);
    open.sort_by(|a, b| high(a).total_cmp(&high(b)));
    while let Some(lowest) = open.first().copied() {
        let top = high(&lowest);
        let (mine, rest): (Vec<usize>, Vec<usize>) = open
            .iter()
            .partition(|k| heat(**k).is_some_and(|h| h.low_c <= top));
        let windows = || mine.iter().filter_map(|k| heat(*k));
        let low = windows().map(|h| h.low_c).fold(0.0, f64::max);
        let mut best = (f64::INFINITY, top);
        let mut t = (low / STEP_C).ceil() * STEP_C;
        while t <= top {
            let ppm: f64 = windows().map(|h| h.departs_ppm(t)).sum();
            if ppm < best.0 {
                best = (ppm, t);
            }
            t += STEP_C;
        }
        for k in mine {
            genome.heat_c[k] = Some(best.1 as i32);
        }
        open = rest;
    }
}

/// A first genome.
#[must_use]
pub fn first(problem: &Problem, begin: Begin) -> Genome {
    let pieces = ordered(problem, begin.order);
    let mut runs: Vec<(i64, usize, usize)> = Vec::new();
    for (n, piece) in pieces.iter().enumerate() {
        let of = &problem.pieces[*piece].runs;
        let last_load = of.iter().rposition(|r| problem.runs[*r].load).unwrap_or(0);
        let step = |m: usize| m as i64 - last_load as i64;
        runs.extend(of.iter().enumerate().map(|(m, r)| (step(m), n, *r)));
    }
    if begin.by_step {
        runs.sort_unstable();
    }
    let mut units: Vec<Unit> = runs.into_iter().map(|r| Unit::of(r.2)).collect();
    if begin.share != Share::Alone {
        shared(problem, &mut units, begin.share, begin.most);
    }
    let mut genome = Genome::new(problem, units, begin.tolerance);
    if begin.gather {
        gather(problem, &mut genome);
    }
    genome
}
