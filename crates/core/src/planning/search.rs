//! The search for a good day: the best of thirteen ways to begin, then annealing with restarts, tidied before and after. Its
//! budget is in passes, so that the same question has the same answer; a caller that is in a hurry may stop it between two.

use crate::planning::chance::Chance;
use crate::planning::genome::Genome;
use crate::planning::hands::share_out;
use crate::planning::layout::Layout;
use crate::planning::moves::{Movable, change, slack_s};
use crate::planning::problem::Problem;
use crate::planning::score::Score;
use crate::planning::start::{BEGINS, first};

/// How hot annealing begins and how cold it ends, in the units of [`Score::soft`].
const HOT: f64 = 900.0;
const COLD: f64 = 8.0;
/// It begins cooler where a day is known.
const WARM: f64 = 400.0;
/// Changes that shake a start.
const SHAKES: usize = 15;
/// Passes of one run for each task; at most so many runs.
const PASSES_PER_TASK: f64 = 60.0;
const MOST_RUNS: f64 = 12.0;
/// The share of what may be spent on a race of beginnings, and how many are left in each of its rounds.
const RACED: f64 = 0.4;
const FIELDS: [usize; 3] = [8, 4, 2];
/// A wait shorter than this many steps of the grid is left alone.
const WORTH_TIDYING: i64 = 2;

/// What may be spent, and where it begins.
#[derive(Debug, Clone)]
pub struct Budget {
    /// Passes: days laid.
    pub passes: u64,
    /// Of the stream of chance.
    pub seed: u64,
    /// Days that are known, the one that people go by first.
    pub known: Vec<Genome>,
}

/// A day that was found.
#[derive(Debug, Clone)]
pub struct Found {
    /// The day as a genome.
    pub genome: Genome,
    /// How good it is.
    pub score: Score,
    /// Days laid.
    pub passes: u64,
}

/// A day and how good it is.
#[derive(Clone)]
struct Best {
    genome: Genome,
    score: Score,
}

/// Finds a day. `stop` is asked between passes: a day is found whatever it says.
#[must_use]
pub fn search(problem: &Problem, budget: &Budget, stop: impl Fn() -> bool) -> Found {
    run(problem, budget, &stop)
}

/// One body for all callers: compiled here, with this crate's optimization, and not with theirs.
fn run(problem: &Problem, budget: &Budget, stop: &dyn Fn() -> bool) -> Found {
    let mut search = Search {
        problem,
        layout: Layout::new(problem),
        movable: Movable::of(problem),
        chance: Chance::new(budget.seed ^ 0xDA7),
        passes: 0,
        most: budget.passes.max(1),
        stop,
    };
    let (best, pool) = search.begin(&budget.known);
    let best = search.anneal(best, &pool, !budget.known.is_empty());
    Found {
        genome: best.genome,
        score: best.score,
        passes: search.passes,
    }
}

struct Search<'a> {
    problem: &'a Problem,
    layout: Layout<'a>,
    movable: Movable,
    chance: Chance,
    passes: u64,
    most: u64,
    stop: &'a dyn Fn() -> bool,
}

impl Search<'_> {
    fn is_spent(&self) -> bool {
        self.passes >= self.most || (self.stop)()
    }

    fn lay(&mut self, genome: &mut Genome) -> Score {
        self.passes += 1;
        self.layout.lay(genome)
    }

    fn change(&mut self, genome: &mut Genome) {
        change(self.problem, genome, &mut self.chance, &self.movable);
    }

    /// The best of what is known and of all ways to begin, and all of them.
    fn begin(&mut self, known: &[Genome]) -> (Best, Vec<Best>) {
        let begins = BEGINS.iter().map(|b| first(self.problem, *b));
        let all: Vec<Genome> = known.iter().cloned().chain(begins).collect();
        let mut best: Option<Best> = None;
        let mut pool = Vec::new();
        for mut genome in all {
            if best.is_some() && self.is_spent() {
                break;
            }
            let score = self.lay(&mut genome);
            if best.as_ref().is_none_or(|b| score < b.score) {
                best = Some(Best {
                    genome: genome.clone(),
                    score,
                });
            }
            pool.push(Best { genome, score });
        }
        let best = best.unwrap_or_else(|| {
            let mut genome = Genome::new(self.problem, Vec::new(), 0);
            let score = self.layout.lay(&mut genome);
            Best { genome, score }
        });
        (best, pool)
    }

    /// Holds back what would only wait, from the last to the first, and lets operators hand over in their longest waits: kept
    /// where the day gets better.
    fn tidy(&mut self, best: &mut Best) {
        let grid_s = self.problem.grid_s;
        let mut order: Vec<(i64, Vec<usize>)> = best
            .genome
            .units
            .iter()
            .filter_map(|u| Some((best.genome.laid[u.runs[0]]?.0, u.runs.clone())))
            .collect();
        order.sort_by_key(|u| -u.0);
        for (start_s, runs) in order {
            if self.is_spent() {
                return;
            }
            let mut units = best.genome.units.iter();
            let Some(unit) = units.position(|u| u.runs == runs) else {
                continue;
            };
            let slack_s = slack_s(self.problem, &best.genome, unit);
            if slack_s < WORTH_TIDYING * grid_s {
                continue;
            }
            let mut held = best.genome.clone();
            let start_s = runs
                .iter()
                .filter_map(|r| held.laid[*r])
                .map(|l| l.0)
                .fold(start_s, i64::max);
            held.units[unit].not_before_s = start_s - self.problem.now_s + slack_s;
            self.keep(held, best);
        }
        self.share_out(best);
        for wait in best.genome.idle.clone() {
            for first_goes in [true, false] {
                if self.is_spent() {
                    return;
                }
                let mut handed = best.genome.clone();
                let wanted = &mut handed.wanted[wait.operator][wait.shift];
                if first_goes {
                    wanted.1 = Some(wait.from_s);
                } else {
                    wanted.0 = Some(wait.to_s);
                }
                self.keep(handed, best);
            }
        }
    }

    /// The same times with the hands shared out for the shortest that each is bound, where that is better.
    fn share_out(&mut self, best: &mut Best) {
        if self.is_spent() || self.problem.hands.len() < 2 {
            return;
        }
        let mut same = best.genome.clone();
        self.lay(&mut same);
        if let Some(asked) = share_out(&self.layout) {
            let mut shared = best.genome.clone();
            shared.asked = asked;
            shared.reluctance.fill(0);
            for wanted in shared.wanted.iter_mut().flatten() {
                *wanted = (None, None);
            }
            self.keep(shared, best);
        }
    }

    fn keep(&mut self, mut genome: Genome, best: &mut Best) {
        let score = self.lay(&mut genome);
        if score < best.score {
            *best = Best { genome, score };
        }
    }

    /// Goes on a little from each of several beginnings, and longer from those that come out better: a day that needs one night
    /// more is not made shorter by small changes.
    fn race(&mut self, best: &mut Best, pool: &[Best]) {
        let each_round =
            (self.most.saturating_sub(self.passes) as f64 * RACED) as u64 / FIELDS.len() as u64;
        let mut field: Vec<Best> = Vec::new();
        for begun in pool {
            if field.iter().all(|other| other.score != begun.score) {
                field.push(begun.clone());
            }
        }
        for size in FIELDS {
            field.sort_by_key(|entrant| entrant.score);
            field.truncate(size);
            for entrant in &mut field {
                let mut now = Best {
                    genome: entrant.genome.clone(),
                    score: entrant.score,
                };
                self.cool(&mut now, entrant, each_round / size as u64, HOT);
            }
        }
        for entrant in field {
            if entrant.score < best.score {
                *best = entrant;
            }
        }
    }

    fn anneal(&mut self, mut best: Best, pool: &[Best], known: bool) -> Best {
        self.tidy(&mut best);
        if !known {
            self.race(&mut best, pool);
        }
        let left = self.most.saturating_sub(self.passes);
        let tasks = self.problem.tasks.len().max(1) as f64;
        let runs = (left as f64 / (PASSES_PER_TASK * tasks)).clamp(1.0, MOST_RUNS) as u64;
        let each = left / runs;
        let hot = if known { WARM } else { HOT };
        for run in 0..runs {
            if self.is_spent() {
                break;
            }
            // The first and the last run go on from the best, those between from shaken starts.
            let mut now = Best {
                genome: best.genome.clone(),
                score: best.score,
            };
            if run > 0 && run + 1 < runs {
                let from = if run % 2 == 1 {
                    pool.get(self.chance.below(pool.len())).map(|b| &b.genome)
                } else {
                    None
                };
                let mut genome = from.unwrap_or(&best.genome).clone();
                for _ in 0..SHAKES {
                    self.change(&mut genome);
                }
                let score = self.lay(&mut genome);
                now = Best { genome, score };
            }
            self.cool(&mut now, &mut best, each, hot);
            if run + 1 < runs {
                self.tidy(&mut best);
            }
        }
        self.tidy(&mut best);
        best
    }

    fn cool(&mut self, now: &mut Best, best: &mut Best, passes: u64, hot: f64) {
        let base = self.passes;
        let mut since = 0;
        while self.passes - base < passes && !self.is_spent() {
            let share = (self.passes - base) as f64 / passes as f64;
            let temperature = hot * (COLD / hot).powf(share);
            let mut genome = now.genome.clone();
            self.change(&mut genome);
            while self.chance.one_in(3) {
                self.change(&mut genome);
            }
            let score = self.lay(&mut genome);
            since += 1;
            let worse = score.soft() - now.score.soft();
            if worse <= 0.0 || self.chance.unit() < (-worse / temperature).exp() {
                *now = Best { genome, score };
                if score < best.score {
                    *best = Best {
                        genome: now.genome.clone(),
                        score,
                    };
                    since = 0;
                }
            }
            if since > passes / 3 + 200 {
                *now = Best {
                    genome: best.genome.clone(),
                    score: best.score,
                };
                since = 0;
            }
        }
    }
}
