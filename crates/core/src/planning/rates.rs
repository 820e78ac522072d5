//! How fast a fire heats and cools, out of what was logged of it.

use crate::planning::floor::Rates;

/// A turn smaller than this is the controller's, K.
const TURN_K: f64 = 8.0;
/// A way up or down shorter than this tells little, K.
const LEAST_K: f64 = 60.0;
/// Near the top the controller holds back: that share of the way is left out.
const HELD_BACK: f64 = 0.05;
/// The room, °C.
const ROOM_C: f64 = 20.0;
/// What is beyond these is no fire of a shop: s/°C, and s.
const HEATS: (f64, f64) = (0.05, 60.0);
const COOLS: (f64, f64) = (120.0, 200_000.0);
/// Of what was never seen, s: a log that ends at heat.
const COOLS_USUALLY_S: f64 = 7200.0;

/// A moment, s, and how hot it was then, °C.
type Logged = (f64, f64);

/// Where a log turns from up to down and back, its ends among them.
fn turns(log: &[Logged]) -> Vec<Logged> {
    let Some(first) = log.first() else {
        return Vec::new();
    };
    let mut turns = vec![*first];
    let (mut low, mut high) = (*first, *first);
    let mut rising: Option<bool> = None;
    for now in log {
        if now.1 > high.1 {
            high = *now;
        }
        // The last of the lowest: how long it lay at rest before is no part of the way up.
        if now.1 <= low.1 {
            low = *now;
        }
        if rising != Some(true) && now.1 > low.1 + TURN_K {
            turns.push(low);
            (rising, high) = (Some(true), *now);
        } else if rising != Some(false) && now.1 < high.1 - TURN_K {
            turns.push(high);
            (rising, low) = (Some(false), *now);
        }
    }
    turns.push(match rising {
        Some(true) => high,
        Some(false) => low,
        None => *first,
    });
    turns
}

fn median(mut all: Vec<f64>) -> Option<f64> {
    all.sort_by(f64::total_cmp);
    let middle = all.len().checked_sub(1)? / 2;
    all.get(middle).copied()
}

/// What the logs of one fire say, each by rising time; none where no log shows a whole way up.
#[must_use]
pub fn rates(logs: &[Vec<Logged>]) -> Option<Rates> {
    let (mut ups, mut downs) = (Vec::new(), Vec::new());
    for log in logs {
        for way in turns(log).windows(2) {
            let (from, to) = (way[0], way[1]);
            let by_k = to.1 - from.1;
            if by_k >= LEAST_K {
                let near_c = to.1 - HELD_BACK * by_k;
                let reached = log.iter().find(|l| l.0 > from.0 && l.1 >= near_c);
                let s = reached.map_or(to.0, |l| l.0) - from.0;
                ups.push((s / (near_c - from.1)).clamp(HEATS.0, HEATS.1));
            } else if by_k <= -LEAST_K && to.1 > ROOM_C + 5.0 {
                // It was held until the last of the hottest.
                let near_c = from.1 + HELD_BACK * by_k;
                let within = |l: &&Logged| l.0 >= from.0 && l.0 < to.0 && l.1 >= near_c;
                let begun = log.iter().rfind(within).unwrap_or(&from);
                let share = (begun.1 - ROOM_C) / (to.1 - ROOM_C);
                downs.push(((to.0 - begun.0) / share.ln()).clamp(COOLS.0, COOLS.1));
            }
        }
    }
    Some(Rates {
        heat_s_per_c: median(ups)?,
        cool_tau_s: median(downs).unwrap_or(COOLS_USUALLY_S),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Up at a steady rate, held with a controller's ripple, down by the law of cooling: in closed form.
    fn log(s_per_c: f64, tau_s: f64) -> Vec<Logged> {
        let mut log: Vec<Logged> = (0..30).map(|i| (60.0 * f64::from(i), 20.0)).collect();
        let (mut t, mut c) = (1800.0, 20.0);
        while c < 815.0 {
            log.push((t, c));
            (t, c) = (t + 15.0, c + 15.0 / s_per_c);
        }
        for i in 0..120 {
            log.push((t, 815.0 + 3.0 * f64::from(i).sin()));
            t += 15.0;
        }
        let begun = t;
        while t < begun + tau_s {
            log.push((t, 20.0 + 795.0 * (-(t - begun) / tau_s).exp()));
            t += 30.0;
        }
        log
    }

    #[test]
    fn a_log_gives_back_what_it_was_made_with() {
        for (s_per_c, tau_s) in [(2.4, 10_000.0), (0.8, 2500.0), (5.0, 20_000.0)] {
            let found = rates(&[log(s_per_c, tau_s)]).unwrap();
            assert!(
                (found.heat_s_per_c / s_per_c - 1.0).abs() < 0.05,
                "{found:?}"
            );
            assert!((found.cool_tau_s / tau_s - 1.0).abs() < 0.1, "{found:?}");
        }
    }

    #[test]
    fn one_odd_log_among_several_does_not_count_and_none_says_nothing() {
        let logs = [log(2.0, 9000.0), log(20.0, 9000.0), log(2.1, 9000.0)];
        let found = rates(&logs).unwrap();
        assert!((1.9..2.4).contains(&found.heat_s_per_c), "{found:?}");
        assert_eq!(rates(&[]), None);
        assert_eq!(rates(&[vec![(0.0, 200.0), (60.0, 203.0)]]), None);
    }
}
