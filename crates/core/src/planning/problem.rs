//! A day made ready for laying: activities of all blades in one list, tied runs, hours without breaks, stations by number.

use crate::planning::day::{Day, Fire, Price, Sharing, Unattended, Window};
use crate::planning::tasks::{Lived, Run, Task, Tie};

/// A moment that never comes, s.
pub const NEVER: i64 = i64::MAX / 4;
/// Two temperatures closer than this are one, °C.
pub const SAME_C: f64 = 0.01;

/// Why a day cannot be laid at all.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Unlayable {
    /// A station is named that there is not.
    NoStation {
        /// Its name.
        station: String,
    },
    /// A blade is named that there is not.
    NoBlade {
        /// Its name.
        blade: String,
    },
    /// No station takes a blade of this length.
    FitsNowhere {
        /// The blade.
        blade: String,
        /// Its activity.
        activity: usize,
    },
    /// A heat in a load has to begin what is tied together.
    LoadInRun {
        /// The blade.
        blade: String,
        /// Its activity.
        activity: usize,
    },
    /// There is no such activity.
    NoActivity {
        /// The blade.
        blade: String,
        /// Its activity.
        activity: usize,
    },
    /// There are more operators than can be told apart.
    TooManyOperators {},
}

/// Most operators of a day.
const MAX_OPERATORS: usize = 16;

/// A pair of hands.
#[derive(Debug, Clone, PartialEq)]
pub struct Hands {
    /// When they are there, breaks taken out.
    pub free: Vec<Window>,
    /// When they are there.
    pub hours: Vec<Window>,
}

/// A station by number.
#[derive(Debug, Clone, PartialEq)]
pub struct Place {
    /// In together, out one by one.
    pub load: bool,
    /// Places.
    pub units: i64,
    /// How long a blade goes in, mm; 0 for any.
    pub depth_mm: f64,
    /// Half-hands as long as anything is in it.
    pub attention: i64,
    /// Somebody has to be in the shop.
    pub present: bool,
    /// How much longer every further blade takes, as a share.
    pub more_per_blade: f64,
    /// What is in it may lie so much longer, s.
    pub timer_s: i64,
    /// Its fire.
    pub fire: Option<Fire>,
    /// Its bath.
    pub bath: Option<crate::planning::day::Bath>,
}

/// A blade by number.
#[derive(Debug, Clone, PartialEq)]
pub struct Piece {
    /// From end to end, mm.
    pub length_mm: f64,
    /// Not before, s.
    pub release_s: i64,
    /// Wanted by, s.
    pub due_s: Option<i64>,
    /// What it counts.
    pub weight: i64,
    /// Its first task.
    pub first: usize,
    /// Its last task.
    pub last: usize,
    /// Its runs, in order.
    pub runs: Vec<usize>,
}

/// A day made ready.
#[derive(Debug, Clone, PartialEq)]
pub struct Problem {
    /// Grid, s.
    pub grid_s: i64,
    /// Now, s.
    pub now_s: i64,
    /// Nothing begins after, s.
    pub horizon_s: i64,
    /// The room, °C.
    pub ambient_c: f64,
    /// What counts how much.
    pub price: Price,
    /// Operators.
    pub hands: Vec<Hands>,
    /// Stations.
    pub places: Vec<Place>,
    /// Blades.
    pub pieces: Vec<Piece>,
    /// Activities of all blades.
    pub tasks: Vec<Task>,
    /// Tied runs of all blades.
    pub runs: Vec<Run>,
    /// When somebody is in the shop.
    pub presence: Vec<Window>,
}

/// Up to the next multiple of the grid, s.
#[must_use]
pub fn up(seconds: f64, grid_s: i64) -> i64 {
    ((seconds / grid_s as f64) - 1e-9).ceil() as i64 * grid_s
}

/// Windows without what is taken out of them.
fn without(hours: &[Window], breaks: &[Window]) -> Vec<Window> {
    let mut left = Vec::new();
    for &(from, to) in hours {
        let mut inside: Vec<Window> = breaks
            .iter()
            .copied()
            .filter(|b| b.1 > from && b.0 < to)
            .collect();
        inside.sort_unstable();
        let mut at = from;
        for (begin, end) in inside {
            if begin > at {
                left.push((at, begin));
            }
            at = at.max(end);
        }
        if at < to {
            left.push((at, to));
        }
    }
    left.sort_unstable();
    left
}

/// Windows in which any of them lies.
fn together(mut all: Vec<Window>) -> Vec<Window> {
    all.sort_unstable();
    let mut joined: Vec<Window> = Vec::new();
    for (from, to) in all {
        match joined.last_mut() {
            Some(last) if from <= last.1 => last.1 = last.1.max(to),
            _ => joined.push((from, to)),
        }
    }
    joined
}

/// A blade by its name.
fn piece_of(day: &Day, name: &str) -> Result<usize, Unlayable> {
    let found = day.blades.iter().position(|b| b.id == name);
    found.ok_or_else(|| Unlayable::NoBlade {
        blade: name.to_owned(),
    })
}

/// A station by its name.
fn place_of(day: &Day, name: &str) -> Result<usize, Unlayable> {
    let found = day.stations.iter().position(|s| s.id == name);
    found.ok_or_else(|| Unlayable::NoStation {
        station: name.to_owned(),
    })
}

impl Problem {
    /// Makes a day ready.
    ///
    /// # Errors
    /// [`Unlayable`] where a name is none, a blade fits nowhere, or a load does not begin its run.
    pub fn new(day: &Day) -> Result<Self, Unlayable> {
        if day.operators.len() > MAX_OPERATORS {
            return Err(Unlayable::TooManyOperators {});
        }
        let hands = day.operators.iter().map(|o| Hands {
            free: without(&o.hours, &o.breaks),
            hours: o.hours.clone(),
        });
        let places = day.stations.iter().map(|s| Place {
            load: s.sharing == Sharing::Load,
            units: s.units,
            depth_mm: s.depth_mm,
            attention: s.attention,
            present: s.unattended == Unattended::Present,
            more_per_blade: s.more_per_blade,
            timer_s: s.timer_extra_s,
            fire: s.fire,
            bath: s.bath,
        });
        let hours = day.operators.iter().flat_map(|o| o.hours.clone());
        let mut problem = Self {
            grid_s: day.grid_s.max(1),
            now_s: day.now_s,
            horizon_s: day.horizon_s,
            ambient_c: day.ambient_c,
            price: day.price,
            hands: hands.collect(),
            places: places.collect(),
            pieces: Vec::new(),
            tasks: Vec::new(),
            runs: Vec::new(),
            presence: together(hours.collect()),
        };
        for blade in 0..day.blades.len() {
            problem.add(day, blade)?;
        }
        problem.mark(day)?;
        Ok(problem)
    }

    fn add(&mut self, day: &Day, number: usize) -> Result<(), Unlayable> {
        let blade = &day.blades[number];
        let first = self.tasks.len();
        let count = blade.activities.len();
        let no_activity = |activity: usize| Unlayable::NoActivity {
            blade: blade.id.clone(),
            activity,
        };
        // Tied to the one before: by a span, or since it only hangs in the air.
        let mut tied = vec![false; count];
        for span in &blade.spans {
            if span.to >= count || span.from >= span.to {
                return Err(no_activity(span.to));
            }
            tied[span.from + 1..=span.to].fill(true);
        }
        let mut runs = Vec::new();
        for (k, activity) in blade.activities.iter().enumerate() {
            let in_air = activity.at.is_empty();
            let mut at = Vec::new();
            for name in &activity.at {
                let place = place_of(day, name)?;
                let depth_mm = self.places[place].depth_mm;
                if depth_mm == 0.0 || blade.length_mm <= depth_mm {
                    at.push(place);
                }
            }
            if at.is_empty() && !in_air {
                return Err(Unlayable::FitsNowhere {
                    blade: blade.id.clone(),
                    activity: k,
                });
            }
            let load = at.first().is_some_and(|s| self.places[*s].load);
            if k > 0 && (tied[k] || in_air) {
                if load {
                    return Err(Unlayable::LoadInRun {
                        blade: blade.id.clone(),
                        activity: k,
                    });
                }
                if let Some(run) = self.runs.last_mut() {
                    run.last = first + k;
                }
            } else {
                let before = runs.last().copied();
                runs.push(self.runs.len());
                self.runs.push(Run {
                    piece: number,
                    first: first + k,
                    last: first + k,
                    load,
                    before,
                    risky: false,
                });
            }
            let barred = day.operators.iter().enumerate();
            let barred = barred.filter(|(_, o)| o.not.contains(&activity.kind));
            self.tasks.push(Task {
                piece: number,
                run: self.runs.len() - 1,
                at,
                in_s: activity.in_s,
                heat_s: activity.heat_s,
                hold_s: activity.hold_s,
                out_s: activity.out_s,
                attention: activity.attention,
                heat: activity.temp,
                preheat: activity.pre,
                leave_c: activity.leave_c,
                extra_s: activity.extra_s,
                extra_ppm_per_min: activity.extra_ppm_per_min,
                quench: activity.quench,
                barred: barred.fold(0, |all, (o, _)| all | 1 << o),
                pin_s: None,
                known_s: None,
                lived: None,
                ties: Vec::new(),
            });
        }
        for span in &blade.spans {
            let between = first + span.from + 1..first + span.to;
            let least_s = self.tasks[between].iter().map(Task::least_s).sum();
            let (from, to) = (first + span.from, first + span.to);
            if span.risk.is_some() {
                let run = self.tasks[to].run;
                self.runs[run].risky = true;
            }
            self.tasks[to].ties.push(Tie {
                from,
                max_s: span.max_s,
                least_s,
                risk: span.risk,
            });
        }
        if count == 0 {
            return Err(no_activity(0));
        }
        self.pieces.push(Piece {
            length_mm: blade.length_mm,
            release_s: blade.release_s,
            due_s: blade.due_s,
            weight: blade.weight,
            first,
            last: first + count - 1,
            runs,
        });
        Ok(())
    }

    /// What is pinned, known and done.
    fn mark(&mut self, day: &Day) -> Result<(), Unlayable> {
        let task = |problem: &Self, name: &str, activity: usize| {
            let piece = &problem.pieces[piece_of(day, name)?];
            let task = piece.first + activity;
            if task > piece.last {
                return Err(Unlayable::NoActivity {
                    blade: name.to_owned(),
                    activity,
                });
            }
            Ok(task)
        };
        for pin in &day.pins {
            let k = task(self, &pin.blade, pin.activity)?;
            self.tasks[k].pin_s = Some(pin.start_s);
        }
        for known in &day.before {
            let k = task(self, &known.blade, known.activity)?;
            self.tasks[k].known_s = Some(known.start_s);
        }
        for past in &day.past {
            let k = task(self, &past.blade, past.activity)?;
            let place = past.station.as_deref().map(|s| place_of(day, s));
            let heat_c = past.temperature_c.unwrap_or(0.0);
            self.tasks[k].lived = Some(Lived {
                place: place.transpose()?,
                start_s: past.start_s,
                heat_c,
                preheat_c: past.pre_c.unwrap_or(heat_c),
                leave_s: past.leave_s.unwrap_or(NEVER),
                end_s: past.end_s.unwrap_or(NEVER),
                over: past.end_s.is_some_and(|end| end <= day.now_s),
                until_s: past.until_s.unwrap_or(0),
            });
        }
        Ok(())
    }

    /// Places that a blade takes of a station.
    #[must_use]
    pub fn units(&self, piece: usize, place: usize) -> i64 {
        let depth_mm = self.places[place].depth_mm;
        if depth_mm == 0.0 || self.pieces[piece].length_mm <= 0.5 * depth_mm {
            1
        } else {
            2
        }
    }

    /// How long a fire takes from one temperature to another, s.
    #[must_use]
    pub fn ramp_s(&self, fire: &Fire, from_c: f64, to_c: f64) -> i64 {
        if (from_c - to_c).abs() < SAME_C {
            0
        } else if to_c > from_c {
            up(fire.heat_s_per_c * (to_c - from_c), self.grid_s)
        } else {
            let share = (from_c - self.ambient_c) / (to_c - self.ambient_c);
            up(fire.cool_tau_s * share.ln(), self.grid_s)
        }
    }

    /// Earliest moment not before `not_before_s` at which a fire that was left so hot stands at `to_c`, s. One that may not
    /// run alone goes cold while nobody is there.
    #[must_use]
    pub fn ready_s(
        &self,
        place: usize,
        (left_c, left_s): (f64, i64),
        to_c: f64,
        not_before_s: i64,
    ) -> i64 {
        let at = &self.places[place];
        let Some(fire) = &at.fire else {
            return not_before_s;
        };
        if !at.present {
            return not_before_s.max(left_s + self.ramp_s(fire, left_c, to_c));
        }
        let cooled = |c: f64, for_s: i64| {
            self.ambient_c + (c - self.ambient_c) * (-(for_s as f64) / fire.cool_tau_s).exp()
        };
        let (mut c, mut t) = (left_c, left_s);
        for &(from, to) in &self.presence {
            if to <= t {
                continue;
            }
            if t < from {
                c = cooled(c, from - t);
                t = from;
            }
            let ready = t + self.ramp_s(fire, c, to_c);
            if ready <= to {
                let then = not_before_s.max(ready);
                if then < to {
                    return then;
                }
                c = to_c;
            } else if to_c > c {
                c += (to - t) as f64 / fire.heat_s_per_c;
            } else {
                c = cooled(c, to - t).max(to_c);
            }
            t = to;
        }
        NEVER
    }

    /// Earliest moment not before `from_s` from which somebody is in the shop for so long, s.
    #[must_use]
    pub fn somebody_s(&self, from_s: i64, for_s: i64) -> i64 {
        let windows = self.presence.iter();
        let mut starts = windows.filter_map(|&(a, b)| {
            let t = from_s.max(a);
            (t + for_s <= b).then_some(t)
        });
        starts.next().unwrap_or(NEVER)
    }
}
