//! How good a day is: level after level, each counting only where those before it are equal.

use crate::planning::layout::Layout;
use crate::planning::problem::up;

/// Two set points closer than this are one, °C.
const SET_C: f64 = 0.5;
/// A known start that is moved counts for an hour at most, s.
const MOVED_S: i64 = 3600;

/// How good a day is; less is better.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Score {
    /// Weight of blades that are left out.
    pub left_out: i64,
    /// By how much rules are broken, s: only what is done or pinned can.
    pub broken_s: i64,
    /// Risk beyond what is accepted, ppm.
    pub risk_ppm: i64,
    /// Lateness by weight, s.
    pub late_s: i64,
    /// Length of the day, hands, set points, risk and what was moved, s.
    pub cost_s: i64,
    /// Sum of what each blade takes until it is done, s.
    pub sum_s: i64,
}

impl Score {
    /// Of nothing.
    pub const NONE: Self = Self {
        left_out: 0,
        broken_s: 0,
        risk_ppm: 0,
        late_s: 0,
        cost_s: 0,
        sum_s: 0,
    };

    /// One number for a search that goes uphill now and then.
    #[must_use]
    pub fn soft(&self) -> f64 {
        1e7 * self.left_out as f64
            + 100.0 * self.broken_s as f64
            + self.risk_ppm as f64
            + 4.0 * self.late_s as f64
            + self.cost_s as f64
            + 0.01 * self.sum_s as f64
    }

    /// Of a day that is laid.
    #[must_use]
    pub fn of(layout: &Layout<'_>) -> Self {
        let problem = layout.problem;
        let price = &problem.price;
        let mut score = Self {
            left_out: 0,
            broken_s: layout.broken_s,
            risk_ppm: 0,
            late_s: 0,
            cost_s: 0,
            sum_s: 0,
        };
        let (mut end_s, mut ppm) = (problem.now_s, 0);
        for (number, piece) in problem.pieces.iter().enumerate() {
            let done = layout.laid[piece.last].filter(|_| !layout.left_out[number]);
            let Some(done) = done else {
                score.left_out += piece.weight;
                continue;
            };
            let risk = layout.risk_ppm(number);
            ppm += risk;
            score.risk_ppm += (risk - price.accept_ppm).max(0);
            end_s = end_s.max(done.end_s);
            score.sum_s += done.end_s - problem.now_s;
            if let Some(due_s) = piece.due_s {
                score.late_s += (done.end_s - due_s).max(0) * piece.weight;
            }
        }
        let cost = (end_s - problem.now_s) as f64
            + price.hands * layout.hands_s() as f64
            + price.change_s * layout.changes() as f64
            + price.s_per_1000ppm * ppm as f64 / 1000.0
            + price.moved * layout.moved_s() as f64;
        score.cost_s = cost.round() as i64;
        score
    }
}

impl Layout<'_> {
    /// Risk of a blade: waits, departures in heat, and what it stays hot beyond its need, ppm.
    #[must_use]
    pub fn risk_ppm(&self, piece: usize) -> i64 {
        let of = &self.problem.pieces[piece];
        let mut ppm = 0.0;
        for k in of.first..=of.last {
            let Some(laid) = self.laid[k] else { continue };
            let task = &self.problem.tasks[k];
            for tie in &task.ties {
                if let (Some(risk), Some(ended)) = (&tie.risk, self.laid[tie.from]) {
                    ppm += risk.ppm(laid.start_s - ended.end_s, tie.least_s).round();
                }
            }
            if let (Some(heat), Some(heat_c)) = (&task.heat, laid.heat_c) {
                ppm += heat.departs_ppm(heat_c);
            }
            if task.extra_ppm_per_min > 0.0 {
                ppm += task.extra_ppm_per_min * self.extra_s(k) as f64 / 60.0;
            }
        }
        ppm.round() as i64
    }

    /// How much longer a task stays hot than it needs, in a fire that does not switch itself off, s.
    #[must_use]
    pub fn extra_s(&self, k: usize) -> i64 {
        let problem = self.problem;
        let task = &problem.tasks[k];
        let Some((laid, place)) = self.laid[k].and_then(|l| Some((l, l.place?))) else {
            return 0;
        };
        let at = &problem.places[place];
        if at.timer_s > 0 {
            return 0;
        }
        if !at.load {
            return (laid.leave_s - laid.start_s - task.stay_s()).max(0);
        }
        let Some(load) = laid.load else { return 0 };
        let is_mate = |m: &usize| {
            self.laid[*m].is_some_and(|l| l.load == Some(load) && l.start_s == laid.start_s)
        };
        let mates: Vec<usize> = (0..problem.tasks.len()).filter(is_mate).collect();
        let more = 1.0 + at.more_per_blade * (mates.len() as f64 - 1.0);
        let longer = |s: i64| up(s as f64 * more, problem.grid_s);
        let of = || mates.iter().map(|m| &problem.tasks[*m]);
        let mut head_s = if at.attention > 0 {
            0
        } else {
            of().map(|t| t.in_s).sum()
        };
        if task.preheat.is_some()
            && let (Some(fire), Some(from_c), Some(to_c)) = (&at.fire, laid.preheat_c, laid.heat_c)
        {
            let even = of().filter_map(|t| t.preheat);
            let even_s = even.map(|p| longer(p.heat_s) + p.hold_s).max();
            head_s += even_s.unwrap_or(0) + problem.ramp_s(fire, from_c, to_c);
        }
        (laid.leave_s - laid.start_s - head_s - longer(task.heat_s) - task.hold_s).max(0)
    }

    /// From the first to the last press of each operator in each shift, s.
    fn hands_s(&self) -> i64 {
        let mut sum_s = 0;
        for (hands, grips) in self.problem.hands.iter().zip(&self.grips) {
            for &(from, to) in &hands.hours {
                let inside = || {
                    let all = grips.iter();
                    all.filter(move |g| g.start_s >= from && g.end_s <= to)
                };
                let first = inside().map(|g| g.start_s).min();
                let last = inside().map(|g| g.end_s).max();
                sum_s += first.zip(last).map_or(0, |(a, b)| b - a);
            }
        }
        sum_s
    }

    /// How often a fire is set to another temperature.
    fn changes(&self) -> i64 {
        let mut changes = 0;
        for (place, stays) in self.problem.places.iter().zip(&self.stays) {
            let Some(fire) = &place.fire else { continue };
            let mut c = fire.start_c;
            for stay in stays {
                changes += i64::from((stay.in_c - c).abs() > SET_C);
                c = stay.out_c;
            }
        }
        changes
    }

    /// By how much known starts are moved, s.
    fn moved_s(&self) -> i64 {
        if self.problem.price.moved <= 0.0 {
            return 0;
        }
        let tasks = self.problem.tasks.iter().zip(&self.laid);
        let moved = tasks.filter_map(|(task, laid)| {
            let laid = (*laid).filter(|l| l.place.is_some() && task.lived.is_none())?;
            Some((laid.start_s - task.known_s?).abs().min(MOVED_S))
        });
        moved.sum()
    }
}
