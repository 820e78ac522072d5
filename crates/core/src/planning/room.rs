//! Whether a station takes something: places, the heat of its fire before and after, somebody in the shop, and its bath.

use crate::planning::layout::{Binds, Layout, Stay};
use crate::planning::problem::{NEVER, SAME_C, up};

impl Layout<'_> {
    /// Earliest moment not before `from_s` at which a station takes a task for so long, s.
    pub(super) fn takes(
        &mut self,
        (k, place): (usize, usize),
        from_s: i64,
        for_s: i64,
        units: i64,
        (in_c, out_c): (f64, f64),
    ) -> Option<i64> {
        let problem = self.problem;
        let at = &problem.places[place];
        if units > at.units {
            return None;
        }
        let longest_s = self.longest_stay_s[place];
        let mut s = from_s;
        'later: loop {
            if s >= problem.horizon_s {
                return None;
            }
            let e = s + for_s;
            let stays = &self.stays[place];
            // What began so long before is over.
            let near = stays.partition_point(|o| o.start_s < s - longest_s);
            let later = stays.partition_point(|o| o.start_s < e);
            let here = &stays[near..later];
            let (mut hot_at_start, mut hot_at_end) = (false, false);
            for stay in here.iter().filter(|o| o.end_s > s) {
                let other_heat = at.fire.is_some()
                    && ((stay.in_c - in_c).abs() > SAME_C || (stay.out_c - out_c).abs() > SAME_C);
                if at.load || other_heat {
                    self.binds = Binds::Station {
                        place,
                        task: stay.task,
                    };
                    s = stay.end_s;
                    continue 'later;
                }
                hot_at_start |= stay.start_s <= s;
                hot_at_end |= stay.end_s >= e;
            }
            if !at.load
                && let Some((task, then_s)) = full(here, (s, e), units, at.units, problem.grid_s)
            {
                self.binds = Binds::Station { place, task };
                s = then_s;
                continue;
            }
            if let Some(fire) = &at.fire {
                if !hot_at_start {
                    let before = last_before(stays, s, longest_s);
                    let left = before.map_or((fire.start_c, fire.start_s), |b| (b.out_c, b.end_s));
                    let ready = problem.ready_s(place, left, in_c, s);
                    if ready > s {
                        self.binds = Binds::Heat { place };
                        s = ready;
                        continue;
                    }
                }
                if !hot_at_end
                    && let Some(next) = stays.get(later)
                    && problem.ready_s(place, (out_c, e), next.in_c, next.start_s) > next.start_s
                {
                    self.binds = Binds::Station {
                        place,
                        task: next.task,
                    };
                    s = next.end_s;
                    continue;
                }
            }
            if at.present {
                let then = problem.somebody_s(s, for_s);
                if then > s {
                    self.binds = Binds::Alone { place };
                    s = then;
                    continue;
                }
            }
            match self.bath_bears(k, place, s) {
                Ok(()) => return Some(s),
                Err(None) => return None,
                Err(Some(then)) => {
                    self.binds = Binds::Bath { place };
                    s = then;
                }
            }
        }
    }

    /// Whether a bath stays within limits through this quench and all others; when to try again, never where none.
    fn bath_bears(&self, k: usize, place: usize, s: i64) -> Result<(), Option<i64>> {
        let problem = self.problem;
        let (Some(bath), Some(mine)) = (&problem.places[place].bath, &problem.tasks[k].quench)
        else {
            return Ok(());
        };
        let (mut c, mut t) = (bath.start_c, problem.now_s);
        let mut others = self.stays[place].iter().peekable();
        let mut gone_in = false;
        loop {
            let next = match others.peek() {
                Some(stay) if gone_in || stay.start_s < s => {
                    let other = problem.tasks[stay.task].quench.as_ref();
                    other.map(|q| (stay.start_s, stay.end_s, q, false))
                }
                _ if gone_in => return Ok(()),
                _ => Some((s, s, mine, true)),
            };
            let is_mine = matches!(next, Some((.., true)));
            if !is_mine {
                others.next();
            }
            let Some((start_s, end_s, quench, _)) = next else {
                continue;
            };
            gone_in |= is_mine;
            if start_s > t || is_mine {
                let for_s = (start_s - t).max(0) as f64;
                c = bath.rest_c + (c - bath.rest_c) * (-for_s / bath.tau_s).exp();
                t = start_s;
            }
            let (low_c, high_c) = (quench.low_c - 1e-6, quench.high_c + 1e-6);
            if is_mine && !(low_c..=high_c).contains(&c) {
                let to = if c > high_c {
                    quench.high_c
                } else {
                    quench.low_c
                };
                let ratio = (c - bath.rest_c) / (to - bath.rest_c);
                if ratio <= 1.0 {
                    return Err(None);
                }
                let wait = up(bath.tau_s * ratio.ln(), problem.grid_s).max(problem.grid_s);
                return Err(Some(s + wait));
            }
            // One later would go into a bath that this one warmed.
            if gone_in && !(low_c..=high_c).contains(&c) {
                return Err(Some(end_s));
            }
            c += quench.warms_j / bath.j_per_c;
        }
    }
}

/// Of what began before a moment, what ends last.
fn last_before(stays: &[Stay], s: i64, longest_s: i64) -> Option<&Stay> {
    let before = stays.partition_point(|o| o.start_s < s);
    let mut last: Option<&Stay> = None;
    for stay in stays[..before].iter().rev() {
        if last.is_some_and(|l| stay.start_s + longest_s < l.end_s) {
            break;
        }
        // Of those that end together the first, as they were put in.
        if last.is_none_or(|l| stay.end_s >= l.end_s) {
            last = Some(stay);
        }
    }
    last
}

/// What a rolling station is full of in a window, and when to try again; none where there is room.
fn full(
    stays: &[Stay],
    (s, e): (i64, i64),
    units: i64,
    most: i64,
    grid_s: i64,
) -> Option<(usize, i64)> {
    let at = |t: i64| {
        let here = stays.iter().filter(|o| o.start_s <= t && o.end_s > t);
        let (mut taken, mut first) = (0, (NEVER, 0));
        for stay in here {
            taken += stay.units;
            if stay.end_s < first.0 {
                first = (stay.end_s, stay.task);
            }
        }
        (taken, first)
    };
    let (taken, (end_s, task)) = at(s);
    if taken + units > most {
        return Some((task, end_s));
    }
    for stay in stays.iter().filter(|o| o.start_s > s && o.start_s < e) {
        let (taken, (end_s, task)) = at(stay.start_s);
        if taken + units > most {
            return Some((task, end_s.max(s + grid_s)));
        }
    }
    None
}
