//! How hot each fire is over a day: up to a heat before it is wanted, held while something is in it, cooling after.

use crate::planning::day::{Day, Fire, Station};
use crate::planning::plan::Bar;
use crate::planning::problem::SAME_C;

/// The room is reached nearly: where a line ends, °C above it.
const NEARLY_C: f64 = 15.0;
/// A cooling line is drawn in so many pieces.
const PIECES: u32 = 6;

/// A stay in a fire: when from, when to, and how hot.
struct Stay {
    from_s: i64,
    to_s: i64,
    heat_c: f64,
    leaves_c: f64,
}

fn stays(day: &Day, station: &Station, bars: &[Bar]) -> Vec<Stay> {
    let mut all: Vec<Stay> = Vec::new();
    let mut here: Vec<&Bar> = bars
        .iter()
        .filter(|b| b.station.as_ref() == Some(&station.id) && b.heat_c.is_some())
        .collect();
    here.sort_by_key(|b| b.start_s);
    for bar in here {
        let heat_c = bar.heat_c.unwrap_or_default();
        let blade = day.blades.iter().find(|b| b.id == bar.blade);
        let activity = blade.and_then(|b| b.activities.get(bar.activity));
        let leaves_c = activity.and_then(|a| a.leave_c).unwrap_or(heat_c);
        match all.last_mut() {
            Some(last) if bar.start_s <= last.to_s && (last.heat_c - heat_c).abs() < SAME_C => {
                last.to_s = last.to_s.max(bar.leave_s);
            }
            _ => all.push(Stay {
                from_s: bar.start_s,
                to_s: bar.leave_s,
                heat_c,
                leaves_c,
            }),
        }
    }
    all
}

fn cooled_c(fire: &Fire, from_c: f64, ambient_c: f64, for_s: i64) -> f64 {
    ambient_c + (from_c - ambient_c) * (-(for_s as f64) / fire.cool_tau_s).exp()
}

/// How long a fire is left to cool before it is lit for the next heat, so that it is as hot as it is wanted when it is wanted.
fn lit_s(fire: &Fire, (at_c, ambient_c): (f64, f64), heat_c: f64, idle_s: i64) -> i64 {
    let late = |for_s: i64| {
        let rise_c = heat_c - cooled_c(fire, at_c, ambient_c, for_s);
        for_s as f64 + rise_c.max(0.0) * fire.heat_s_per_c > idle_s as f64
    };
    let (mut low, mut high) = (0, idle_s);
    while high - low > 1 {
        let middle = low + (high - low) / 2;
        if late(middle) {
            high = middle;
        } else {
            low = middle;
        }
    }
    low
}

/// Temperatures over time of a station with a fire, s and °C, in the order of time; none where nothing is in it.
#[must_use]
pub fn heat_line(day: &Day, station: &Station, bars: &[Bar]) -> Vec<(i64, f64)> {
    let Some(fire) = &station.fire else {
        return Vec::new();
    };
    let mut line: Vec<(i64, f64)> = Vec::new();
    let (mut at_s, mut at_c) = (fire.start_s, fire.start_c);
    for stay in stays(day, station, bars) {
        let idle_s = (stay.from_s - at_s).max(0);
        let lit_s = lit_s(fire, (at_c, day.ambient_c), stay.heat_c, idle_s);
        let pieces = if line.is_empty() && at_c < day.ambient_c + NEARLY_C {
            1
        } else {
            PIECES
        };
        for piece in 1..=pieces {
            let for_s = lit_s * i64::from(piece) / i64::from(pieces);
            line.push((at_s + for_s, cooled_c(fire, at_c, day.ambient_c, for_s)));
        }
        line.push((stay.from_s, stay.heat_c));
        line.push((stay.to_s, stay.leaves_c));
        (at_s, at_c) = (stay.to_s, stay.leaves_c);
    }
    if !line.is_empty() {
        let share = (at_c - day.ambient_c).max(NEARLY_C) / NEARLY_C;
        let all_s = fire.cool_tau_s * share.ln();
        for piece in 1..=PIECES {
            let for_s = (all_s * f64::from(piece) / f64::from(PIECES)) as i64;
            line.push((at_s + for_s, cooled_c(fire, at_c, day.ambient_c, for_s)));
        }
    }
    line
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::planning::day::{Price, Sharing, Unattended};
    use crate::planning::plan::Binding;

    fn bar(start_s: i64, heat_c: f64) -> Bar {
        Bar {
            blade: "a".to_owned(),
            activity: 0,
            kind: "temper".to_owned(),
            station: Some("oven".to_owned()),
            start_s,
            leave_s: start_s + 7200,
            end_s: start_s + 7200,
            heat_c: Some(heat_c),
            preheat_c: None,
            hands: [None, None, None],
            load: None,
            binds: Binding::Now {},
        }
    }

    #[test]
    fn a_fire_is_hot_when_it_is_wanted_and_goes_cold_after() {
        let station = Station {
            id: "oven".to_owned(),
            kind: "oven".to_owned(),
            sharing: Sharing::Rolling,
            units: 4,
            depth_mm: 0.0,
            attention: 0,
            unattended: Unattended::Always,
            more_per_blade: 0.0,
            timer_extra_s: 0,
            fire: Some(Fire {
                start_c: 20.0,
                start_s: 0,
                heat_s_per_c: 5.0,
                cool_tau_s: 3600.0,
            }),
            bath: None,
        };
        let day = Day {
            id: String::new(),
            grid_s: 30,
            now_s: 0,
            horizon_s: 100_000,
            ambient_c: 20.0,
            price: Price {
                accept_ppm: 0,
                s_per_1000ppm: 0.0,
                hands: 0.0,
                change_s: 0.0,
                moved: 0.0,
            },
            operators: Vec::new(),
            stations: vec![station.clone()],
            blades: Vec::new(),
            pins: Vec::new(),
            past: Vec::new(),
            before: Vec::new(),
        };
        let bars = [bar(3600, 200.0), bar(3700, 200.0), bar(20_000, 180.0)];
        let line = heat_line(&day, &station, &bars);
        assert!(line.windows(2).all(|w| w[0].0 <= w[1].0), "{line:?}");
        // Lit fifteen minutes before, at heat when the first goes in, until the second comes out.
        assert_eq!(line[0], (3600 - 900, 20.0));
        assert_eq!(line[1], (3600, 200.0));
        assert_eq!(line[2], (3700 + 7200, 200.0));
        assert!(line.contains(&(20_000, 180.0)));
        // An hour after it cools by the rule of its time constant.
        let last = line.last().unwrap();
        assert!((last.1 - 35.0).abs() < 1.0, "{last:?}");
    }
}
