//! Small changes of a genome, of which a search tries one after another.

use crate::planning::chance::Chance;
use crate::planning::day::Heat;
use crate::planning::genome::{Genome, RELUCTANCE_S, TOLERANCE_S, Unit};
use crate::planning::layout::load_heat;
use crate::planning::problem::Problem;
use crate::planning::start::{fits, tempers};

/// Set points are tried in steps of this, °C.
const STEP_C: i32 = 5;
/// A unit is held back by one of these, s.
const HELD_S: [i64; 5] = [300, 600, 900, 1800, 3600];

/// What of a problem can be moved.
#[derive(Debug, Clone)]
pub struct Movable {
    /// Runs that begin in a load.
    loads: Vec<usize>,
    /// Tempers and other heats that are no load.
    tempers: Vec<usize>,
    /// Runs in which a wait costs.
    risky: Vec<usize>,
    /// Tasks that may be done at several stations.
    choices: Vec<usize>,
}

impl Movable {
    /// Of a problem: nothing that was begun.
    #[must_use]
    pub fn of(problem: &Problem) -> Self {
        let open = |k: usize| problem.tasks[k].lived.is_none();
        let runs = || 0..problem.runs.len();
        let of = |r: usize| &problem.runs[r];
        Self {
            loads: runs()
                .filter(|r| of(*r).load && open(of(*r).first))
                .collect(),
            tempers: tempers(problem),
            risky: runs()
                .filter(|r| of(*r).risky && open(of(*r).last))
                .collect(),
            choices: (0..problem.tasks.len())
                .filter(|k| open(*k) && problem.tasks[*k].at.len() > 1)
                .collect(),
        }
    }
}

/// One of the steps that lie in a window, °C.
fn step_in(heat: &Heat, chance: &mut Chance) -> i32 {
    let low = (heat.low_c / f64::from(STEP_C)).ceil() as i32;
    let high = (heat.high_c / f64::from(STEP_C)).floor() as i32;
    let count = usize::try_from(high - low + 1).unwrap_or(0);
    STEP_C * (low + chance.below(count) as i32)
}

fn holds(heat: &Heat, t: f64) -> bool {
    (heat.low_c..=heat.high_c).contains(&t)
}

/// Moves of one genome.
struct Mover<'a> {
    problem: &'a Problem,
    genome: &'a mut Genome,
    chance: &'a mut Chance,
    movable: &'a Movable,
}

/// Changes a genome in one place.
pub fn change(problem: &Problem, genome: &mut Genome, chance: &mut Chance, movable: &Movable) {
    if genome.units.is_empty() {
        return;
    }
    let mut mover = Mover {
        problem,
        genome,
        chance,
        movable,
    };
    // What a move touches need not keep its known start.
    let known = mover
        .genome
        .known_s
        .iter()
        .any(|k| k.is_some_and(|s| s > 0));
    if known && mover.chance.one_in(2) {
        mover.let_go();
        return;
    }
    match mover.chance.below(125) {
        0..=24 => mover.shift(),
        25..=31 => mover.swap(),
        32..=41 => mover.whole_blade(),
        42..=57 => mover.join(),
        58..=65 => mover.part(),
        66..=72 => mover.leave_in_another_order(),
        73..=82 => mover.temper_like_another(),
        83..=89 => mover.bear_more_or_less(),
        90..=93 => mover.elsewhere(),
        94..=99 => mover.beside_its_heat(),
        100..=107 => mover.hold_back(),
        108..=112 => mover.temper_together(),
        113..=117 => mover.heat_of_load(),
        _ => mover.other_hands(),
    }
}

impl Mover<'_> {
    fn any_unit(&mut self) -> usize {
        self.chance.below(self.genome.units.len())
    }

    /// Task with which a unit begins.
    fn lead(&self, unit: usize) -> usize {
        self.problem.runs[self.genome.units[unit].runs[0]].first
    }

    fn is_load(&self, unit: usize) -> bool {
        self.problem.runs[self.genome.units[unit].runs[0]].load
    }

    fn units(&self, is: impl Fn(&Self, usize) -> bool) -> Vec<usize> {
        (0..self.genome.units.len())
            .filter(|u| is(self, *u))
            .collect()
    }

    fn let_go(&mut self) {
        let all = self.genome.known_s.len();
        match self.chance.below(4) {
            0 => self.genome.known_s.fill(None),
            1 => {
                let piece = &self.problem.pieces[self.chance.below(self.problem.pieces.len())];
                self.genome.known_s[piece.first..=piece.last].fill(None);
            }
            2 => {
                let from = self.genome.known_s[self.chance.below(all)];
                let later = |k: &mut Option<i64>| {
                    if *k >= from {
                        *k = None;
                    }
                };
                self.genome.known_s.iter_mut().for_each(later);
            }
            _ => {
                let task = &self.problem.tasks[self.chance.below(all)];
                let run = &self.problem.runs[task.run];
                self.genome.known_s[run.first..=run.last].fill(None);
            }
        }
    }

    fn shift(&mut self) {
        let from = self.any_unit();
        let n = self.genome.units.len();
        let far = self.chance.one_in(4);
        let by = 1 + self.chance.below(if far { n } else { 4 });
        let to = if self.chance.one_in(2) {
            from.saturating_sub(by)
        } else {
            (from + by).min(n - 1)
        };
        let unit = self.genome.units.remove(from);
        self.genome.units.insert(to, unit);
    }

    fn swap(&mut self) {
        let (a, b) = (self.any_unit(), self.any_unit());
        self.genome.units.swap(a, b);
    }

    fn whole_blade(&mut self) {
        let piece = self.chance.below(self.problem.pieces.len());
        let is_its = |u: &Unit| u.runs.len() == 1 && self.problem.runs[u.runs[0]].piece == piece;
        let (mine, rest): (Vec<Unit>, Vec<Unit>) = self.genome.units.drain(..).partition(is_its);
        self.genome.units = rest;
        let at = self.chance.below(self.genome.units.len() + 1);
        self.genome.units.splice(at..at, mine);
    }

    /// Into the load of another, or two loads into one.
    fn join(&mut self) {
        let Some(run) = self.chance.pick(&self.movable.loads) else {
            return;
        };
        let mut units = self.genome.units.iter();
        let Some(from) = units.position(|u| u.runs.contains(&run)) else {
            return;
        };
        let piece = |r: usize| self.problem.runs[r].piece;
        let takes = self.units(|mover, u| {
            let runs = &mover.genome.units[u].runs;
            let with: Vec<usize> = runs.iter().copied().chain([run]).collect();
            u != from
                && mover.is_load(u)
                && runs.iter().all(|r| piece(*r) != piece(run))
                && fits(mover.problem, &with)
        });
        let Some(any) = self.chance.pick(&takes) else {
            return;
        };
        let into = if self.chance.one_in(2) {
            any
        } else {
            let nearest = takes.iter().min_by_key(|u| u.abs_diff(from));
            nearest.copied().unwrap_or(any)
        };
        let there = self.genome.units[into].runs.clone();
        if self.chance.one_in(3) {
            let mine = self.genome.units[from].runs.iter().copied();
            let add: Vec<usize> = mine
                .filter(|r| there.iter().all(|t| piece(*t) != piece(*r)))
                .collect();
            let all: Vec<usize> = there.iter().chain(&add).copied().collect();
            if fits(self.problem, &all) {
                self.genome.units[into].runs = all;
                self.genome.units[from].runs.retain(|r| !add.contains(r));
                self.genome.units.retain(|u| !u.runs.is_empty());
                return;
            }
        }
        let at = self.chance.below(there.len() + 1);
        self.genome.units[into].runs.insert(at, run);
        self.genome.units[from].runs.retain(|r| *r != run);
        self.genome.units.retain(|u| !u.runs.is_empty());
    }

    fn several(&mut self) -> Option<usize> {
        let loads = self.units(|mover, u| mover.genome.units[u].runs.len() > 1);
        self.chance.pick(&loads)
    }

    /// One out of a load, or half of it.
    fn part(&mut self) {
        let Some(unit) = self.several() else { return };
        let runs = &mut self.genome.units[unit].runs;
        let one = self.chance.below(runs.len());
        let out = if self.chance.one_in(3) {
            runs.drain(runs.len() / 2..).collect()
        } else {
            vec![runs.remove(one)]
        };
        let at = unit + self.chance.below(2);
        let apart = Unit {
            runs: out,
            place: None,
            heat_c: None,
            not_before_s: 0,
        };
        self.genome.units.insert(at, apart);
    }

    fn leave_in_another_order(&mut self) {
        let Some(unit) = self.several() else { return };
        let n = self.genome.units[unit].runs.len();
        let (a, b) = (self.chance.below(n), self.chance.below(n));
        self.genome.units[unit].runs.swap(a, b);
    }

    /// A temper at the heat of another at the same station, or both where their windows meet.
    fn temper_like_another(&mut self) {
        let Some(k) = self.chance.pick(&self.movable.tempers) else {
            return;
        };
        if self.chance.one_in(4) {
            self.genome.heat_c[k] = None;
            return;
        }
        let problem = self.problem;
        let meets = |j: &usize| {
            let at = &problem.tasks[*j].at;
            *j != k && at.iter().any(|s| problem.tasks[k].at.contains(s))
        };
        let all = self.movable.tempers.iter().copied();
        let others: Vec<usize> = all.filter(meets).collect();
        let Some(other) = self.chance.pick(&others) else {
            return;
        };
        let (Some(mine), Some(theirs)) = (problem.tasks[k].heat, problem.tasks[other].heat) else {
            return;
        };
        let now_c = self.genome.heat_c[other].map_or(theirs.nominal_c, f64::from);
        let t = if holds(&mine, now_c) {
            now_c
        } else {
            let low = mine.low_c.max(theirs.low_c);
            let high = mine.high_c.min(theirs.high_c);
            if low > high {
                return;
            }
            mine.nominal_c.clamp(low, high)
        };
        self.genome.heat_c[k] = Some(t as i32);
        if holds(&theirs, t) {
            self.genome.heat_c[other] = Some(t as i32);
        }
        if self.chance.one_in(2) {
            let piece = problem.tasks[k].piece;
            for &j in &self.movable.tempers {
                let task = &problem.tasks[j];
                if task.piece == piece && task.heat.is_some_and(|h| holds(&h, t)) {
                    self.genome.heat_c[j] = Some(t as i32);
                }
            }
        }
    }

    /// One heat for all, half, the first or the last tempers of every blade that bears it.
    fn temper_together(&mut self) {
        let Some(k) = self.chance.pick(&self.movable.tempers) else {
            return;
        };
        let problem = self.problem;
        let Some(heat) = problem.tasks[k].heat else {
            return;
        };
        let t = step_in(&heat, self.chance);
        let which = self.chance.below(4);
        let tempers = &self.movable.tempers;
        let of_same = |a: usize, b: usize| problem.tasks[a].piece == problem.tasks[b].piece;
        for &j in tempers {
            let taken = match which {
                0 => true,
                1 => self.chance.one_in(2),
                2 => !tempers.iter().any(|o| *o < j && of_same(*o, j)),
                _ => !tempers.iter().any(|o| *o > j && of_same(*o, j)),
            };
            let bears = |h: Heat| holds(&h, f64::from(t));
            if taken && problem.tasks[j].heat.is_some_and(bears) {
                self.genome.heat_c[j] = Some(t);
            }
        }
    }

    fn heat_of_load(&mut self) {
        let unit = self.any_unit();
        if !self.is_load(unit) {
            return;
        }
        let lead = self.lead(unit);
        if let Some(heat) = self.problem.tasks[lead].heat {
            let usual = self.chance.one_in(4);
            self.genome.units[unit].heat_c = (!usual).then(|| step_in(&heat, self.chance));
        }
    }

    fn bear_more_or_less(&mut self) {
        if let Some(run) = self.chance.pick(&self.movable.risky) {
            self.genome.tolerance[run] = self.chance.below(TOLERANCE_S.len()) as u8;
        }
    }

    fn elsewhere(&mut self) {
        let Some(k) = self.chance.pick(&self.movable.choices) else {
            return;
        };
        let task = &self.problem.tasks[k];
        let place = if self.chance.one_in(3) {
            None
        } else {
            self.chance.pick(&task.at)
        };
        let run = &self.problem.runs[task.run];
        if !(run.load && run.first == k) {
            self.genome.place[k] = place;
            return;
        }
        let mut units = self.genome.units.iter_mut();
        if let Some(unit) = units.find(|u| u.runs.contains(&task.run)) {
            unit.place = place;
        }
    }

    /// A load beside one of the same heat, or at the heat of its neighbour.
    fn beside_its_heat(&mut self) {
        let loads = self.units(Self::is_load);
        let (Some(a), Some(b)) = (self.chance.pick(&loads), self.chance.pick(&loads)) else {
            return;
        };
        if a == b {
            return;
        }
        let other = &self.genome.units[b];
        let Some((heat_c, _)) = load_heat(self.problem, &other.runs, other.heat_c) else {
            return;
        };
        if self.chance.one_in(2) {
            let usual = self.chance.one_in(3);
            self.genome.units[a].heat_c = (!usual).then_some(heat_c as i32);
        }
        let unit = self.genome.units.remove(a);
        let b = if a < b { b - 1 } else { b };
        let at = (b + self.chance.below(2)).min(self.genome.units.len());
        self.genome.units.insert(at, unit);
    }

    /// Back to what follows it, or let go.
    fn hold_back(&mut self) {
        let unit = self.any_unit();
        let (problem, now_s) = (self.problem, self.problem.now_s);
        let laid = &self.genome.laid;
        let runs = &self.genome.units[unit].runs;
        let mut starts = runs.iter().map(|r| laid[*r].map(|l| l.0));
        let Some(start_s) = starts.try_fold(i64::MIN, |most, s| Some(most.max(s?))) else {
            return;
        };
        let slack_s = slack_s(problem, self.genome, unit);
        self.genome.units[unit].not_before_s = match self.chance.below(4) {
            0 => 0,
            1 | 2 if slack_s > 0 => start_s - now_s + slack_s,
            _ => {
                let by_s = HELD_S[self.chance.below(HELD_S.len())];
                (start_s - now_s + by_s) / problem.grid_s * problem.grid_s
            }
        };
    }

    /// Who is called, when they are wanted, or whose hands are asked first.
    fn other_hands(&mut self) {
        let operators = self.problem.hands.len();
        if operators < 2 {
            let unit = self.any_unit();
            self.genome.units[unit].not_before_s = 0;
            return;
        }
        match self.chance.below(8) {
            0 | 1 => {
                let o = self.chance.below(operators);
                self.genome.reluctance[o] = self.chance.below(RELUCTANCE_S.len()) as u8;
            }
            2..=5 => {
                let idle = self.genome.idle.clone();
                let all = self.chance.one_in(3);
                let Some(wait) = self.chance.pick(&idle).filter(|_| !all) else {
                    let o = self.chance.below(operators);
                    let shift = self.chance.below(self.genome.wanted[o].len());
                    if let Some(wanted) = self.genome.wanted[o].get_mut(shift) {
                        *wanted = (None, None);
                    }
                    return;
                };
                let wanted = &mut self.genome.wanted[wait.operator][wait.shift];
                if self.chance.one_in(2) {
                    wanted.1 = Some(wait.from_s);
                } else {
                    wanted.0 = Some(wait.to_s);
                }
            }
            _ => {}
        }
        if self.chance.one_in(3) {
            let k = self.chance.below(self.problem.tasks.len());
            let who = if self.chance.one_in(3) {
                None
            } else {
                Some(self.chance.below(operators))
            };
            let part = self.chance.below(4);
            for (n, asked) in self.genome.asked[k].iter_mut().enumerate() {
                if part == 3 || part == n {
                    *asked = who;
                }
            }
            if self.chance.one_in(3) {
                let run = &self.problem.runs[self.problem.tasks[k].run];
                self.genome.asked[run.first..=run.last].fill([who; 3]);
            }
        }
    }
}

/// How much later a unit could end before what follows it of its blades, s.
#[must_use]
pub fn slack_s(problem: &Problem, genome: &Genome, unit: usize) -> i64 {
    let runs = genome.units[unit].runs.iter();
    let slack = runs.filter_map(|r| {
        let next = problem.runs.get(r + 1)?;
        let follows = next.piece == problem.runs[*r].piece;
        let (mine, then) = (genome.laid[*r]?, genome.laid[r + 1].filter(|_| follows)?);
        Some(then.0 - mine.1)
    });
    slack.min().unwrap_or(0)
}
