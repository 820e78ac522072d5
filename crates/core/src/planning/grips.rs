//! Whether somebody has a hand free, and who.

use crate::planning::layout::{Layout, Part};

impl Layout<'_> {
    /// Earliest moment not before `from_s` at which somebody gives so many half-hands for so long, and who.
    pub(super) fn hands(
        &self,
        (k, part): (usize, Part),
        share: i64,
        from_s: i64,
        for_s: i64,
        barred: u32,
    ) -> Option<(i64, usize)> {
        let asked = self.asked[k][part as usize].filter(|o| barred >> o & 1 == 0);
        if let Some(o) = asked {
            let only = barred | !(1 << o);
            let found = self.hands_of(share, from_s, for_s, only, true);
            if found.is_some() {
                return found;
            }
        }
        let found = self.hands_of(share, from_s, for_s, barred, true);
        if found.is_some() || !self.trimmed {
            return found;
        }
        self.hands_of(share, from_s, for_s, barred, false)
    }

    fn hands_of(
        &self,
        share: i64,
        from_s: i64,
        for_s: i64,
        barred: u32,
        wanted: bool,
    ) -> Option<(i64, usize)> {
        let last = |o: usize, at: i64| {
            let over = self.grips[o].iter().filter(|g| g.end_s <= at);
            over.map(|g| g.end_s).max().unwrap_or(i64::MIN)
        };
        let mut best: Option<(i64, i64, usize)> = None;
        for o in (0..self.problem.hands.len()).filter(|o| barred >> o & 1 == 0) {
            let windows = if wanted {
                &self.free[o]
            } else {
                &self.problem.hands[o].free
            };
            let Some(at) = self.free_hands(o, windows, share, from_s, for_s) else {
                continue;
            };
            let cost = at + self.reluctance_s[o];
            // Of equals who was busy last, so that one pair of hands goes on.
            let better = best.is_none_or(|(known, then, other)| {
                cost < known || (cost == known && last(o, at) > last(other, then))
            });
            if better {
                best = Some((cost, at, o));
            }
        }
        best.map(|b| (b.1, b.2))
    }

    fn free_hands(
        &self,
        operator: usize,
        windows: &[(i64, i64)],
        share: i64,
        from_s: i64,
        for_s: i64,
    ) -> Option<i64> {
        let grips = &self.grips[operator];
        let longest_s = self.longest_s[operator];
        let mut t = from_s;
        for &(begin, end) in windows {
            if end <= t {
                continue;
            }
            t = t.max(begin);
            'later: while t + for_s <= end {
                let until = t + for_s;
                // What began so long before is over.
                let near = grips.partition_point(|g| g.start_s < t - longest_s);
                for (n, one) in grips.iter().enumerate().skip(near) {
                    if one.start_s >= until {
                        break;
                    }
                    if one.end_s <= t {
                        continue;
                    }
                    if one.share + share > 2 {
                        t = one.end_s;
                        continue 'later;
                    }
                    // Two half-hands at once are the most.
                    for other in &grips[n + 1..] {
                        if other.start_s >= until {
                            break;
                        }
                        let meet = other.end_s > t && other.start_s < one.end_s;
                        if meet && one.share + other.share + share > 2 {
                            t = one.end_s.min(other.end_s);
                            continue 'later;
                        }
                    }
                }
                return Some(t);
            }
        }
        None
    }
}
