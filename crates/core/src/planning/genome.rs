//! What a search varies of a day: in what order it is laid, what goes in together, at how many degrees, where, how long a
//! wait is borne, and whose hands are asked first. Moments in it count from now, so that the same day an hour later has the
//! same one.

use crate::planning::problem::{NEVER, Problem};

/// How long a risky wait is borne before its run is begun later, s.
pub const TOLERANCE_S: [i64; 6] = [300, 900, 1800, 3600, 7200, NEVER];
/// The tolerance that bears every wait that its span allows.
pub const BEARS_ALL: u8 = 5;
/// How much later a first pair of hands may be before an operator is called, s.
pub const RELUCTANCE_S: [i64; 5] = [0, 300, 1200, 3600, 21_600];

/// Runs that are laid together: one, or several in one load.
#[derive(Debug, Clone, PartialEq)]
pub struct Unit {
    /// The runs; of a load in the order in which they come out.
    pub runs: Vec<usize>,
    /// The station of the load; the best when left out.
    pub place: Option<usize>,
    /// Its temperature, °C; the cheapest in all windows when left out.
    pub heat_c: Option<i32>,
    /// Not before, s from now.
    pub not_before_s: i64,
}

impl Unit {
    /// One run by itself.
    #[must_use]
    pub fn of(run: usize) -> Self {
        Self {
            runs: vec![run],
            place: None,
            heat_c: None,
            not_before_s: 0,
        }
    }
}

/// A long wait of an operator in a shift.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Idle {
    /// Who.
    pub operator: usize,
    /// In which of their shifts.
    pub shift: usize,
    /// Since, s from now.
    pub from_s: i64,
    /// Until, s from now.
    pub to_s: i64,
}

/// From when to when an operator is wanted in a shift, s from now; all of it when left out.
pub type Wanted = (Option<i64>, Option<i64>);

/// A day as it is to be laid.
#[derive(Debug, Clone, PartialEq)]
pub struct Genome {
    /// In this order.
    pub units: Vec<Unit>,
    /// By run, in [`TOLERANCE_S`].
    pub tolerance: Vec<u8>,
    /// Temperature of a task that is no load, °C; as planned when left out.
    pub heat_c: Vec<Option<i32>>,
    /// Station of such a task; the earliest done when left out.
    pub place: Vec<Option<usize>>,
    /// By operator, in [`RELUCTANCE_S`].
    pub reluctance: Vec<u8>,
    /// Whose hands are asked first: by task, for in, all the while and out.
    pub asked: Vec<[Option<usize>; 3]>,
    /// When operators are wanted: by operator and shift.
    pub wanted: Vec<Vec<Wanted>>,
    /// The start that is known of a task, s from now: it is not moved forward.
    pub known_s: Vec<Option<i64>>,
    /// When it is known to come out, s from now.
    pub leaves_s: Vec<i64>,
    /// What the last laying gave: start and end of each run, s; none of one that is left out.
    pub laid: Vec<Option<(i64, i64)>>,
    /// And the longest waits.
    pub idle: Vec<Idle>,
}

impl Genome {
    /// Units in an order, everything else as is usual.
    #[must_use]
    pub fn new(problem: &Problem, units: Vec<Unit>, tolerance: u8) -> Self {
        let (tasks, runs) = (problem.tasks.len(), problem.runs.len());
        let operators = problem.hands.len();
        Self {
            units,
            tolerance: vec![tolerance; runs],
            heat_c: vec![None; tasks],
            place: vec![None; tasks],
            // The second pair of hands is called where it saves some minutes.
            reluctance: (0..operators).map(|o| u8::from(o > 0)).collect(),
            asked: vec![[None; 3]; tasks],
            wanted: problem
                .hands
                .iter()
                .map(|h| vec![(None, None); h.hours.len()])
                .collect(),
            known_s: vec![None; tasks],
            leaves_s: vec![0; tasks],
            laid: vec![None; runs],
            idle: Vec::new(),
        }
    }
}
