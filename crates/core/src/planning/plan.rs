//! A day as it was laid, by the names of blades, stations and operators.

use crate::planning::day::Day;
use crate::planning::genome::Genome;
use crate::planning::layout::{Binds, Laid, Layout};
use crate::planning::problem::Problem;
use crate::planning::score::Score;
use serde::{Deserialize, Serialize};

/// What keeps a bar from being earlier.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DayBinding))]
#[serde(tag = "code", rename_all = "snake_case")]
pub enum Binding {
    /// The step before it.
    StepBefore {},
    /// It begins now.
    Now {},
    /// Its station is held.
    Station {
        /// Which.
        station: String,
        /// By which blade.
        blade: String,
        /// By which of its activities.
        activity: usize,
    },
    /// Its fire is changing heat.
    Heat {
        /// Which.
        station: String,
    },
    /// Nobody has a hand free.
    Hands {
        /// Who would be first.
        operator: String,
    },
    /// Nobody would be in the shop.
    Alone {
        /// With which station.
        station: String,
    },
    /// Its bath is recovering.
    Bath {
        /// Which.
        station: String,
    },
    /// A blade would wait hard or hot.
    Wait {
        /// Which.
        blade: String,
    },
    /// It is pinned.
    Pin {},
}

/// An activity on the day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = LaidBar))]
pub struct Bar {
    /// The blade.
    pub blade: String,
    /// Its activity, from 0.
    pub activity: usize,
    /// What kind of thing.
    pub kind: String,
    /// Where; none in the air.
    pub station: Option<String>,
    /// Starts, s.
    pub start_s: i64,
    /// Comes out, s.
    pub leave_s: i64,
    /// Is over, s.
    pub end_s: i64,
    /// At how many degrees, where in a fire, °C.
    pub heat_c: Option<f64>,
    /// The even heat before, °C.
    pub preheat_c: Option<f64>,
    /// Who puts it in, is at it all the while, takes it out.
    pub hands: [Option<String>; 3],
    /// Number of its load.
    pub load: Option<usize>,
    /// What keeps it from being earlier.
    pub binds: Binding,
}

/// A day that is laid.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// What is done, blade by blade.
    pub bars: Vec<Bar>,
    /// Blades that are left out.
    pub left_out: Vec<String>,
    /// How good it is.
    pub score: Score,
    /// Risk of each blade, ppm.
    pub risks_ppm: Vec<i64>,
}

impl Plan {
    /// One that people go by, of which only the bars are known.
    #[must_use]
    pub const fn known(bars: Vec<Bar>) -> Self {
        Self {
            bars,
            left_out: Vec::new(),
            score: Score::NONE,
            risks_ppm: Vec::new(),
        }
    }

    /// The same with what bound each bar before, where it stands as it stood: laid again it is only known to have been there.
    #[must_use]
    pub fn bound_as(mut self, before: &Self) -> Self {
        for bar in &mut self.bars {
            let same = |b: &&Bar| {
                b.blade == bar.blade && b.activity == bar.activity && b.start_s == bar.start_s
            };
            if let Some(known) = before.bars.iter().find(same) {
                bar.binds = known.binds.clone();
            }
        }
        self
    }

    /// A genome laid once more, by name.
    #[must_use]
    pub fn of(day: &Day, problem: &Problem, genome: &Genome) -> Self {
        let mut layout = Layout::new(problem);
        let score = layout.lay(&mut genome.clone());
        let names = Names { day, problem };
        let laid = layout.laid.iter().enumerate();
        let lost = |piece: usize| layout.left_out[piece];
        let pieces = 0..problem.pieces.len();
        Self {
            bars: laid
                .filter_map(|(k, laid)| Some(names.bar(k, &(*laid)?)))
                .collect(),
            left_out: pieces
                .clone()
                .filter(|p| lost(*p))
                .map(|p| day.blades[p].id.clone())
                .collect(),
            score,
            risks_ppm: pieces
                .map(|p| if lost(p) { 0 } else { layout.risk_ppm(p) })
                .collect(),
        }
    }
}

struct Names<'a> {
    day: &'a Day,
    problem: &'a Problem,
}

impl Names<'_> {
    fn blade(&self, task: usize) -> (String, usize) {
        let piece = self.problem.tasks[task].piece;
        let activity = task - self.problem.pieces[piece].first;
        (self.day.blades[piece].id.clone(), activity)
    }

    fn station(&self, place: usize) -> String {
        self.day.stations[place].id.clone()
    }

    fn operator(&self, number: usize) -> String {
        self.day.operators[number].id.clone()
    }

    fn binding(&self, binds: Binds) -> Binding {
        match binds {
            Binds::StepBefore => Binding::StepBefore {},
            Binds::Now => Binding::Now {},
            Binds::Station { place, task } => {
                let (blade, activity) = self.blade(task);
                Binding::Station {
                    station: self.station(place),
                    blade,
                    activity,
                }
            }
            Binds::Heat { place } => Binding::Heat {
                station: self.station(place),
            },
            Binds::Hands { operator } => Binding::Hands {
                operator: self.operator(operator),
            },
            Binds::Alone { place } => Binding::Alone {
                station: self.station(place),
            },
            Binds::Bath { place } => Binding::Bath {
                station: self.station(place),
            },
            Binds::Wait { task } => Binding::Wait {
                blade: self.blade(task).0,
            },
            Binds::Pin => Binding::Pin {},
        }
    }

    fn bar(&self, task: usize, laid: &Laid) -> Bar {
        let (blade, activity) = self.blade(task);
        let piece = self.problem.tasks[task].piece;
        let has_heat = self.problem.tasks[task].heat.is_some();
        Bar {
            kind: self.day.blades[piece].activities[activity].kind.clone(),
            blade,
            activity,
            station: laid.place.map(|p| self.station(p)),
            start_s: laid.start_s,
            leave_s: laid.leave_s,
            end_s: laid.end_s,
            heat_c: laid.heat_c.filter(|_| has_heat),
            preheat_c: laid.preheat_c.filter(|_| has_heat),
            hands: laid.hands.map(|h| h.map(|o| self.operator(o))),
            load: laid.load,
            binds: self.binding(laid.binds),
        }
    }
}
