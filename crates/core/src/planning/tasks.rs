//! Activities in one list: what each takes, what it is tied to, and the runs that are laid in one piece.

use crate::planning::day::{Heat, Preheat, Quench, Risk};

/// An activity by number.
#[derive(Debug, Clone, PartialEq)]
pub struct Task {
    /// Its blade.
    pub piece: usize,
    /// Its run.
    pub run: usize,
    /// Stations that it may be done at; none in the air.
    pub at: Vec<usize>,
    /// Putting in, s.
    pub in_s: i64,
    /// Until at heat, s.
    pub heat_s: i64,
    /// Held, s.
    pub hold_s: i64,
    /// Taking out, s.
    pub out_s: i64,
    /// Half-hands all the while.
    pub attention: i64,
    /// At how many degrees.
    pub heat: Option<Heat>,
    /// The even heat before.
    pub preheat: Option<Preheat>,
    /// How hot the fire is left, °C.
    pub leave_c: Option<f64>,
    /// How much longer it may stay, s.
    pub extra_s: i64,
    /// What a minute of that costs, ppm.
    pub extra_ppm_per_min: f64,
    /// What it asks of a bath.
    pub quench: Option<Quench>,
    /// Operators who do not do it, one bit each.
    pub barred: u32,
    /// Pinned to this start, s.
    pub pin_s: Option<i64>,
    /// Known to start then, s.
    pub known_s: Option<i64>,
    /// What was done of it.
    pub lived: Option<Lived>,
    /// How soon after others it has to start.
    pub ties: Vec<Tie>,
}

impl Task {
    /// In the air.
    #[must_use]
    pub fn in_air(&self) -> bool {
        self.at.is_empty()
    }

    /// From start to end at least, s.
    #[must_use]
    pub const fn least_s(&self) -> i64 {
        self.stay_s() + self.out_s
    }

    /// From start until it may come out, s.
    #[must_use]
    pub const fn stay_s(&self) -> i64 {
        self.in_s + self.heat_s + self.hold_s
    }
}

/// What was done of a task.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lived {
    /// Where.
    pub place: Option<usize>,
    /// Since when, s.
    pub start_s: i64,
    /// How hot, °C.
    pub heat_c: f64,
    /// How hot the even heat before was, °C.
    pub preheat_c: f64,
    /// When it came out, s.
    pub leave_s: i64,
    /// When it was over, s.
    pub end_s: i64,
    /// It is over.
    pub over: bool,
    /// It takes until then at least, s.
    pub until_s: i64,
}

/// How soon after another a task has to start.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tie {
    /// After the end of this one.
    pub from: usize,
    /// At most so long, s.
    pub max_s: i64,
    /// What lies between takes so long at least, s.
    pub least_s: i64,
    /// What waiting costs.
    pub risk: Option<Risk>,
}

/// Tasks of a blade that are laid in one piece.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Run {
    /// Its blade.
    pub piece: usize,
    /// Its first task.
    pub first: usize,
    /// Its last task.
    pub last: usize,
    /// It begins in a load.
    pub load: bool,
    /// The run of its blade before it.
    pub before: Option<usize>,
    /// A wait in it costs.
    pub risky: bool,
}
