//! A genome laid out as a day: each unit as early as stations, heats, hands, baths and spans let it.
//!
//! What is done stands; what is going on ends as it must; then the units in their order. A load takes one temperature in all
//! its windows, and its members leave one by one. Gaps are filled backwards: a unit takes the first moment that holds it with
//! everything tied to it. Where a span is exceeded the blade stays hot as long as it bears, else the load begins later.

use crate::planning::day::Heat;
use crate::planning::genome::{Genome, TOLERANCE_S};
use crate::planning::problem::{NEVER, Problem};

/// Something in a station.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stay {
    /// From, s.
    pub start_s: i64,
    /// To, s.
    pub end_s: i64,
    /// Places it takes.
    pub units: i64,
    /// How hot the fire has to stand at its start, °C.
    pub in_c: f64,
    /// How hot it is left, °C.
    pub out_c: f64,
    /// What; of a load its first.
    pub task: usize,
}

/// For what hands are asked.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Part {
    /// Putting in.
    In,
    /// All the while.
    While,
    /// Taking out.
    Out,
}

/// Hands that are taken.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Grip {
    /// From, s.
    pub start_s: i64,
    /// To, s.
    pub end_s: i64,
    /// Half-hands.
    pub share: i64,
    /// For which task.
    pub task: usize,
    /// For what of it.
    pub part: Part,
}

/// What keeps something from being earlier.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Binds {
    /// The step before it.
    StepBefore,
    /// It begins now.
    Now,
    /// Its station is held.
    Station {
        /// Which.
        place: usize,
        /// By what.
        task: usize,
    },
    /// Its fire is changing heat.
    Heat {
        /// Which.
        place: usize,
    },
    /// Nobody has a hand free.
    Hands {
        /// Who would be first.
        operator: usize,
    },
    /// Nobody would be in the shop.
    Alone {
        /// Of which station.
        place: usize,
    },
    /// Its bath is recovering.
    Bath {
        /// Which.
        place: usize,
    },
    /// It would wait hard or hot.
    Wait {
        /// What.
        task: usize,
    },
    /// It is pinned.
    Pin,
}

/// A task that was laid.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Laid {
    /// Starts, s.
    pub start_s: i64,
    /// Comes out, s.
    pub leave_s: i64,
    /// Is over, s.
    pub end_s: i64,
    /// Where; none in the air.
    pub place: Option<usize>,
    /// At how many degrees, where in a fire, °C.
    pub heat_c: Option<f64>,
    /// The even heat before, °C.
    pub preheat_c: Option<f64>,
    /// Whose hands: in, all the while, out.
    pub hands: [Option<usize>; 3],
    /// Number of its load.
    pub load: Option<usize>,
    /// What keeps it from being earlier.
    pub binds: Binds,
}

impl Laid {
    pub(super) fn in_air(start_s: i64, end_s: i64) -> Self {
        Self {
            start_s,
            leave_s: end_s,
            end_s,
            place: None,
            heat_c: None,
            preheat_c: None,
            hands: [None; 3],
            load: None,
            binds: Binds::StepBefore,
        }
    }
}

/// What was done last, to be taken back.
#[derive(Debug, Clone, Copy)]
pub(super) enum Step {
    Stay(usize, usize),
    Grip(usize, usize, Part),
    Laid(usize),
}

/// How a run did not fit: it has to begin so much later, since this task; never when none.
pub(super) struct TooLate {
    pub(super) by_s: i64,
    pub(super) since: usize,
}

/// Moments tried for one activity before it is given up.
const TRIES: usize = 200;
/// Moments tried for a run by itself; beyond the twentieth steps grow.
const RUN_TRIES: usize = 80;
const RUN_GROWS_FROM: usize = 20;
/// A rule that is broken counts for no more than a day, s.
const DAY_S: i64 = 86_400;

/// A day being laid.
#[derive(Debug)]
pub struct Layout<'a> {
    /// What is laid.
    pub problem: &'a Problem,
    /// What is in each station, by start.
    pub stays: Vec<Vec<Stay>>,
    /// Hands of each operator, by start.
    pub grips: Vec<Vec<Grip>>,
    /// Every task; none of a blade that is left out.
    pub laid: Vec<Option<Laid>>,
    /// By how much rules are broken, s: only what is done or pinned can.
    pub broken_s: i64,
    /// Blades that are left out.
    pub left_out: Vec<bool>,
    pub(super) loads: usize,
    pub(super) log: Vec<Step>,
    pub(super) binds: Binds,
    /// Order in which runs were laid.
    pub(super) laid_as: Vec<u32>,
    pub(super) reluctance_s: Vec<i64>,
    pub(super) asked: Vec<[Option<usize>; 3]>,
    pub(super) free: Vec<Vec<(i64, i64)>>,
    /// Somebody is wanted for a part of a shift only.
    pub(super) trimmed: bool,
    /// Tasks going on that are no load, those that must end first.
    pub(super) going_on: Vec<usize>,
    pub(super) known_s: Vec<i64>,
    pub(super) leaves_s: Vec<i64>,
    pub(super) any_lived: bool,
    /// The longest that hands of each operator were taken at once, s.
    pub(super) longest_s: Vec<i64>,
    /// The longest that anything is in each station, s.
    pub(super) longest_stay_s: Vec<i64>,
}

impl<'a> Layout<'a> {
    /// Nothing laid yet.
    #[must_use]
    pub fn new(problem: &'a Problem) -> Self {
        let tasks = problem.tasks.len();
        let begins_load = |k: usize| {
            let run = &problem.runs[problem.tasks[k].run];
            run.load && run.first == k
        };
        let mut going_on: Vec<usize> = (0..tasks)
            .filter(|k| problem.tasks[*k].lived.is_some_and(|l| !l.over) && !begins_load(*k))
            .collect();
        going_on.sort_by_key(|k| {
            let task = &problem.tasks[*k];
            let ends_s = task
                .lived
                .map_or(0, |l| (l.start_s + task.stay_s()).max(l.until_s));
            (task.attention == 0, ends_s)
        });
        Self {
            problem,
            stays: vec![Vec::with_capacity(64); problem.places.len()],
            grips: vec![Vec::with_capacity(128); problem.hands.len()],
            laid: vec![None; tasks],
            broken_s: 0,
            left_out: vec![false; problem.pieces.len()],
            loads: 0,
            log: Vec::new(),
            binds: Binds::Now,
            laid_as: vec![0; problem.runs.len()],
            reluctance_s: vec![0; problem.hands.len()],
            asked: vec![[None; 3]; tasks],
            free: problem.hands.iter().map(|h| h.free.clone()).collect(),
            trimmed: false,
            going_on,
            known_s: vec![0; tasks],
            leaves_s: vec![0; tasks],
            any_lived: problem.tasks.iter().any(|t| t.lived.is_some()),
            longest_s: vec![0; problem.hands.len()],
            longest_stay_s: vec![0; problem.places.len()],
        }
    }

    pub(super) fn reset(&mut self) {
        for stays in &mut self.stays {
            stays.clear();
        }
        for grips in &mut self.grips {
            grips.clear();
        }
        self.laid.fill(None);
        self.left_out.fill(false);
        self.broken_s = 0;
        self.loads = 0;
        for (k, task) in self.problem.tasks.iter().enumerate() {
            let Some(lived) = task.lived.filter(|l| l.over) else {
                continue;
            };
            self.laid[k] = Some(Laid {
                place: lived.place,
                leave_s: lived.leave_s,
                heat_c: Some(lived.heat_c),
                preheat_c: Some(lived.preheat_c),
                binds: Binds::Now,
                ..Laid::in_air(lived.start_s, lived.end_s)
            });
            let Some(place) = lived.place else { continue };
            let (in_c, out_c) = self.heats(k, lived.heat_c, lived.preheat_c);
            if self.problem.places[place].load {
                let mut stays = self.stays[place].iter_mut();
                if let Some(mate) = stays.find(|s| s.start_s == lived.start_s) {
                    mate.end_s = mate.end_s.max(lived.end_s);
                    let longest_s = &mut self.longest_stay_s[place];
                    *longest_s = (*longest_s).max(mate.end_s - mate.start_s);
                    continue;
                }
            }
            let units = self.problem.units(task.piece, place);
            let stay = Stay {
                start_s: lived.start_s,
                end_s: lived.end_s,
                units,
                in_c,
                out_c,
                task: k,
            };
            self.stay(place, stay);
        }
        self.log.clear();
    }

    /// How hot a fire has to stand for a task, and how hot it is left, °C.
    pub(super) fn heats(&self, k: usize, heat_c: f64, preheat_c: f64) -> (f64, f64) {
        let task = &self.problem.tasks[k];
        let in_c = if task.preheat.is_some() {
            preheat_c
        } else {
            heat_c
        };
        (in_c, task.leave_c.unwrap_or(heat_c))
    }

    pub(super) fn undo(&mut self, to: usize) {
        while self.log.len() > to {
            match self.log.pop() {
                Some(Step::Stay(place, task)) => {
                    let stays = &mut self.stays[place];
                    if let Some(at) = stays.iter().rposition(|s| s.task == task) {
                        stays.remove(at);
                    }
                }
                Some(Step::Grip(operator, task, part)) => {
                    let grips = &mut self.grips[operator];
                    let is_it = |g: &Grip| g.task == task && g.part == part;
                    if let Some(at) = grips.iter().rposition(is_it) {
                        grips.remove(at);
                    }
                }
                Some(Step::Laid(task)) => self.laid[task] = None,
                None => {}
            }
        }
    }

    pub(super) fn stay(&mut self, place: usize, stay: Stay) {
        let longest_s = &mut self.longest_stay_s[place];
        *longest_s = (*longest_s).max(stay.end_s - stay.start_s);
        let stays = &mut self.stays[place];
        let at = stays.partition_point(|s| s.start_s <= stay.start_s);
        stays.insert(at, stay);
        self.log.push(Step::Stay(place, stay.task));
    }

    pub(super) fn grip(&mut self, operator: usize, grip: Grip) {
        let longest_s = &mut self.longest_s[operator];
        *longest_s = (*longest_s).max(grip.end_s - grip.start_s);
        let grips = &mut self.grips[operator];
        let at = grips.partition_point(|g| g.start_s <= grip.start_s);
        grips.insert(at, grip);
        self.log.push(Step::Grip(operator, grip.task, grip.part));
    }

    pub(super) fn put(&mut self, task: usize, laid: Laid) {
        self.laid[task] = Some(laid);
        self.log.push(Step::Laid(task));
    }

    /// An activity by itself at a station: when, when out, and whose hands.
    fn find(&mut self, k: usize, place: usize, from_s: i64, heat_c: f64) -> Option<Laid> {
        let problem = self.problem;
        let (task, at) = (&problem.tasks[k], &problem.places[place]);
        let units = problem.units(task.piece, place);
        let heats = (heat_c, task.leave_c.unwrap_or(heat_c));
        let extra_s = task.extra_s.max(at.timer_s);
        let mut s = from_s;
        for _ in 0..TRIES {
            let stay_s = task.stay_s();
            s = self.takes((k, place), s, stay_s + task.out_s, units, heats)?;
            let mut hands = [None; 3];
            if task.attention > 0 {
                let (then, o) = self.hands(
                    (k, Part::While),
                    task.attention,
                    s,
                    stay_s + task.out_s,
                    task.barred,
                )?;
                if then > s {
                    self.binds = Binds::Hands { operator: o };
                    s = then;
                    continue;
                }
                hands[1] = Some(o);
            }
            if task.in_s > 0 {
                let (then, o) = self.hands((k, Part::In), 2, s, task.in_s, task.barred)?;
                if then > s {
                    self.binds = Binds::Hands { operator: o };
                    s = then;
                    continue;
                }
                hands[0] = Some(o);
            }
            let least_s = s + stay_s;
            let mut leave_s = if task.attention > 0 {
                least_s
            } else {
                least_s.max(self.leaves_s[k].min(least_s + extra_s))
            };
            if task.out_s > 0 && task.attention == 0 {
                let (then, o) = self.hands((k, Part::Out), 2, leave_s, task.out_s, task.barred)?;
                hands[2] = Some(o);
                leave_s = then;
                if leave_s - least_s > extra_s {
                    self.binds = Binds::Hands { operator: o };
                    s += leave_s - least_s - extra_s;
                    continue;
                }
            }
            if leave_s > least_s {
                let longer_s = leave_s + task.out_s - s;
                let then = self.takes((k, place), s, longer_s, units, heats)?;
                if then > s {
                    s = then;
                    continue;
                }
            }
            return Some(Laid {
                leave_s,
                place: Some(place),
                heat_c: at.fire.is_some().then_some(heat_c),
                hands,
                binds: self.binds,
                ..Laid::in_air(s, leave_s + task.out_s)
            });
        }
        None
    }

    fn commit(&mut self, k: usize, laid: Laid) {
        let task = &self.problem.tasks[k];
        let Some(place) = laid.place else { return };
        let heat_c = laid.heat_c.unwrap_or(0.0);
        let stay = Stay {
            start_s: laid.start_s,
            end_s: laid.end_s,
            units: self.problem.units(task.piece, place),
            in_c: heat_c,
            out_c: task.leave_c.unwrap_or(heat_c),
            task: k,
        };
        self.stay(place, stay);
        let grip = |start_s, end_s, share, part| Grip {
            start_s,
            end_s,
            share,
            task: k,
            part,
        };
        let [going_in, all_the_while, out] = laid.hands;
        let start_s = laid.start_s;
        if let Some(o) = going_in {
            self.grip(o, grip(start_s, start_s + task.in_s, 2, Part::In));
        }
        if let Some(o) = all_the_while {
            let share = task.attention;
            self.grip(o, grip(start_s, laid.end_s, share, Part::While));
        }
        if let Some(o) = out {
            self.grip(o, grip(laid.leave_s, laid.end_s, 2, Part::Out));
        }
        self.put(k, laid);
    }

    fn heat_of(&self, genome: &Genome, k: usize) -> f64 {
        let planned = self.problem.tasks[k].heat.map_or(0.0, |h| h.nominal_c);
        genome.heat_c[k].map_or(planned, f64::from)
    }

    /// An activity that is going on and no load: it ends when it must, or when it is known to.
    pub(super) fn end_going(&mut self, k: usize) {
        let problem = self.problem;
        let task = &problem.tasks[k];
        let Some(lived) = task.lived else { return };
        let now_s = problem.now_s;
        let Some(place) = lived.place.filter(|_| !task.in_air()) else {
            let end_s = (lived.start_s + task.hold_s).max(now_s).max(lived.until_s);
            self.put(k, Laid::in_air(lived.start_s, end_s));
            return;
        };
        let least_s = (lived.start_s + task.stay_s())
            .max(lived.until_s)
            .max(now_s);
        let extra_s = task.extra_s.max(problem.places[place].timer_s);
        let mut hands = [None; 3];
        let mut leave_s = if task.attention > 0 {
            least_s
        } else {
            least_s.max(self.leaves_s[k].min(least_s + extra_s))
        };
        if task.attention > 0 && least_s > now_s {
            let left_s = least_s - now_s;
            let found = self.hands((k, Part::While), task.attention, now_s, left_s, task.barred);
            match found {
                Some((then, o)) if then == now_s => hands[1] = Some(o),
                Some((then, _)) => self.broken_s += (then - now_s).min(DAY_S),
                None => self.broken_s += DAY_S,
            }
        }
        if task.out_s > 0 && task.attention == 0 {
            let found = self.hands((k, Part::Out), 2, leave_s, task.out_s, task.barred);
            if let Some((then, o)) = found {
                leave_s = then;
                hands[2] = Some(o);
            }
            self.broken_s += (leave_s - least_s - extra_s).max(0);
        }
        let end_s = leave_s + task.out_s;
        let (in_c, out_c) = self.heats(k, lived.heat_c, lived.preheat_c);
        let units = problem.units(task.piece, place);
        let stay = Stay {
            start_s: lived.start_s,
            end_s,
            units,
            in_c,
            out_c,
            task: k,
        };
        self.stay(place, stay);
        let grip = |start_s, end_s, share, part| Grip {
            start_s,
            end_s,
            share,
            task: k,
            part,
        };
        if let Some(o) = hands[1] {
            self.grip(o, grip(now_s, least_s, task.attention, Part::While));
        }
        if let Some(o) = hands[2] {
            self.grip(o, grip(leave_s, end_s, 2, Part::Out));
        }
        let laid = Laid {
            leave_s,
            place: Some(place),
            heat_c: Some(lived.heat_c),
            preheat_c: Some(lived.preheat_c),
            hands,
            binds: Binds::Now,
            ..Laid::in_air(lived.start_s, end_s)
        };
        self.put(k, laid);
    }

    /// The tasks of a run from one to its last, the first not before `t`. With `anyhow` spans are broken, and counted.
    pub(super) fn chain(
        &mut self,
        genome: &Genome,
        (from, last): (usize, usize),
        mut t: i64,
        anyhow: bool,
    ) -> Result<(), TooLate> {
        let problem = self.problem;
        for k in from..=last {
            if let Some(laid) = self.laid[k] {
                t = laid.end_s;
                continue;
            }
            let task = &problem.tasks[k];
            let first = if t > problem.now_s {
                Binds::StepBefore
            } else {
                Binds::Now
            };
            if task.in_air() {
                self.put(k, Laid::in_air(t, t + task.hold_s));
                t += task.hold_s;
                continue;
            }
            let mut from_s = t.max(self.known_s[k]);
            let mut binds = first;
            if let Some(pin_s) = task.pin_s.filter(|p| *p > from_s) {
                from_s = pin_s;
                binds = Binds::Pin;
            }
            let heat_c = self.heat_of(genome, k);
            let mut best: Option<Laid> = None;
            for &place in &task.at {
                if genome.place[k].is_some_and(|only| only != place) {
                    continue;
                }
                self.binds = binds;
                if let Some(laid) = self.find(k, place, from_s, heat_c)
                    && best.is_none_or(|b| laid.end_s < b.end_s)
                {
                    best = Some(laid);
                }
            }
            let Some(laid) = best else {
                return Err(TooLate {
                    by_s: NEVER,
                    since: k,
                });
            };
            let (mut by_s, mut since) = (0, k);
            for tie in &task.ties {
                let Some(ended) = self.laid[tie.from] else {
                    continue;
                };
                let gap_s = laid.start_s - ended.end_s;
                let over = problem.tasks[tie.from].lived.is_some_and(|l| l.over);
                if over || anyhow {
                    self.broken_s += (gap_s - tie.max_s).max(0);
                    continue;
                }
                // What is in the fire already cannot be begun later: it bears what its limit allows.
                let begun = problem.tasks[problem.runs[task.run].first].lived.is_some();
                let borne_s = match tie.risk {
                    Some(_) if !begun => {
                        tie.least_s + TOLERANCE_S[genome.tolerance[task.run] as usize]
                    }
                    _ => NEVER,
                };
                let late_s = gap_s - tie.max_s.min(borne_s);
                if late_s > by_s {
                    (by_s, since) = (late_s, tie.from);
                }
            }
            if by_s > 0 {
                return Err(TooLate { by_s, since });
            }
            if let Some(pin_s) = task.pin_s {
                self.broken_s += (laid.start_s - pin_s).max(0);
            }
            self.commit(k, laid);
            t = laid.end_s;
        }
        Ok(())
    }

    /// A run by itself that does not begin in a load.
    pub(super) fn single(&mut self, genome: &Genome, run: usize, ready_s: i64) -> bool {
        let problem = self.problem;
        let of = &problem.runs[run];
        let (mark, broken_s) = (self.log.len(), self.broken_s);
        let mut t = ready_s;
        for n in 0..RUN_TRIES {
            let Err(late) = self.chain(genome, (of.first, of.last), t, false) else {
                return true;
            };
            self.undo(mark);
            self.broken_s = broken_s;
            if late.by_s >= NEVER {
                return false;
            }
            let grows = if n > RUN_GROWS_FROM {
                problem.grid_s << ((n - RUN_GROWS_FROM) / 8).min(8)
            } else {
                0
            };
            t += late.by_s.max(problem.grid_s).max(grows);
            if t > problem.horizon_s {
                return false;
            }
        }
        false
    }
}

/// The temperature of a load that costs least in all windows, or the one that is asked for where it lies in them, and the even
/// heat before it, °C; none where there is none, or where a preheat would go with none.
#[must_use]
pub fn load_heat(problem: &Problem, runs: &[usize], asked_c: Option<i32>) -> Option<(f64, f64)> {
    let first = |run: &usize| &problem.tasks[problem.runs[*run].first];
    let lead = first(runs.first()?);
    let (mut low, mut high) = (0.0_f64, f64::INFINITY);
    let (mut pre_low, mut pre_high) = (0.0_f64, f64::INFINITY);
    for task in runs.iter().map(first) {
        let heat = task.heat?;
        low = low.max(heat.low_c);
        high = high.min(heat.high_c);
        if task.preheat.is_some() != lead.preheat.is_some() || task.leave_c != lead.leave_c {
            return None;
        }
        if let Some(pre) = &task.preheat {
            pre_low = pre_low.max(pre.low_c);
            pre_high = pre_high.min(pre.high_c);
        }
    }
    if low > high || pre_low > pre_high {
        return None;
    }
    let heats = || runs.iter().filter_map(|r| first(r).heat);
    let costs = |t: f64| heats().map(|h: Heat| h.departs_ppm(t)).sum::<f64>();
    let cheapest = heats()
        .map(|h| h.nominal_c.clamp(low, high))
        .min_by(|a, b| costs(*a).total_cmp(&costs(*b)).then(a.total_cmp(b)))?;
    let asked = asked_c.map(f64::from).filter(|t| (low..=high).contains(t));
    let heat_c = asked.unwrap_or(cheapest);
    let preheat = lead.preheat.map(|p| p.nominal_c.clamp(pre_low, pre_high));
    Some((heat_c, preheat.unwrap_or(heat_c)))
}
