//! When the people of a shop are there, as moments: weeks on the clock of its wall, over changes of the clock.

use jiff::civil::{Date, Time};
use jiff::tz::TimeZone;
use jiff::{Span, Timestamp};
use vatten_core::planning::day::{Operator, Window};
use vatten_core::planning::shop::{Minutes, Shift, ShopHours};

/// The shop's zone; UTC where nobody knows it.
#[must_use]
pub fn zone(name: &str) -> TimeZone {
    TimeZone::get(name).unwrap_or(TimeZone::UTC)
}

/// The moment that a clock on the wall shows so, s since 1970: where it is shown twice the first, where it is left out just
/// after.
#[must_use]
pub fn moment_s(zone: &TimeZone, date: Date, minutes: u32) -> i64 {
    let days = i64::from(minutes / 1440);
    let date = date.saturating_add(Span::new().days(days));
    let minutes = minutes % 1440;
    let hour = i8::try_from(minutes / 60).unwrap_or(0);
    let minute = i8::try_from(minutes % 60).unwrap_or(0);
    let time = Time::new(hour, minute, 0, 0).unwrap_or(Time::midnight());
    let shown = date.to_datetime(time);
    zone.to_timestamp(shown).map_or(0, |at| at.as_second())
}

/// The day on the wall's calendar at a moment.
#[must_use]
pub fn date_of(zone: &TimeZone, at_s: i64) -> Date {
    let at = Timestamp::from_second(at_s).unwrap_or(Timestamp::UNIX_EPOCH);
    zone.to_datetime(at).date()
}

fn window(zone: &TimeZone, date: Date, [from, to]: Minutes) -> Window {
    // A shift that ends when it begins, or before, ends on the next day.
    let to = if to <= from { to + 1440 } else { to };
    (moment_s(zone, date, from), moment_s(zone, date, to))
}

impl Hours<'_> {
    fn of(&self, shift: &Shift) -> Operator {
        let (mut hours, mut breaks) = (Vec::new(), Vec::new());
        let mut date = date_of(self.zone, self.from_s).saturating_sub(Span::new().days(1));
        let last = date_of(self.zone, self.to_s);
        while date <= last {
            let other = shift.other_days.iter().find(|d| {
                let said: Result<Date, _> = d.date.parse();
                said.is_ok_and(|d| d == date)
            });
            let weekday = u32::try_from(date.weekday().to_monday_one_offset()).unwrap_or(0);
            let usual = shift.days.contains(&weekday).then_some(shift.hours);
            let worked = other.map_or(usual, |o| o.hours);
            if let Some(worked) = worked {
                let at = window(self.zone, date, worked);
                if at.1 > self.from_s {
                    hours.push((at.0.max(self.from_s), at.1));
                }
                breaks.extend(shift.breaks.iter().map(|b| window(self.zone, date, *b)));
            }
            date = date.saturating_add(Span::new().days(1));
        }
        Operator {
            id: shift.name.name().to_owned(),
            hours,
            breaks,
            not: shift.not.clone(),
        }
    }
}

/// From when to when hours are asked for, s since 1970.
#[derive(Debug)]
pub struct Hours<'a> {
    /// The shop's zone.
    pub zone: &'a TimeZone,
    /// Nothing before.
    pub from_s: i64,
    /// Nothing that begins on a later day.
    pub to_s: i64,
}

impl Hours<'_> {
    /// Everybody, with their hours in seconds since 1970.
    #[must_use]
    pub fn operators(&self, of: &ShopHours) -> Vec<Operator> {
        of.shifts.iter().map(|s| self.of(s)).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;
    use vatten_core::planning::shop::OtherDay;
    use vatten_core::process::operator::Operator as Name;

    fn usual() -> ShopHours {
        ShopHours::usual(Name::parse("Tove").unwrap())
    }

    fn hours(zone_name: &str, day: Date, of: &ShopHours) -> Vec<Window> {
        let zone = zone(zone_name);
        let from_s = moment_s(&zone, day, 0);
        let asked = Hours {
            zone: &zone,
            from_s,
            to_s: from_s,
        };
        let all = asked.operators(of);
        all[0]
            .hours
            .iter()
            .map(|h| (h.0 - from_s, h.1 - from_s))
            .collect()
    }

    /// The clock goes forward on 2026-03-29 at two and back on 2026-10-25 at three: a shift from eight is an hour nearer to
    /// midnight, or further.
    #[test]
    fn a_change_of_the_clock_moves_the_shift_and_not_its_length() {
        let mut of = usual();
        of.shifts[0].days = vec![7];
        let plain = hours("Europe/Stockholm", date(2026, 3, 22), &of);
        let forward = hours("Europe/Stockholm", date(2026, 3, 29), &of);
        let back = hours("Europe/Stockholm", date(2026, 10, 25), &of);
        assert_eq!(plain, [(8 * 3600, 18 * 3600)]);
        assert_eq!(forward, [(7 * 3600, 17 * 3600)]);
        assert_eq!(back, [(9 * 3600, 19 * 3600)]);
    }

    #[test]
    fn a_shift_over_the_night_of_the_change_is_as_long_as_it_really_is() {
        let mut of = usual();
        of.shifts[0].days = vec![6];
        of.shifts[0].hours = [22 * 60, 6 * 60];
        let length = |day| {
            let all = hours("Europe/Stockholm", day, &of);
            all.iter().map(|h| h.1 - h.0).max().unwrap() / 3600
        };
        assert_eq!(length(date(2026, 3, 21)), 8);
        assert_eq!(length(date(2026, 3, 28)), 7);
        assert_eq!(length(date(2026, 10, 24)), 9);
    }

    #[test]
    fn who_is_away_is_away_and_a_zone_nobody_knows_is_utc() {
        let mut of = usual();
        of.shifts[0].other_days = vec![OtherDay {
            date: "2026-12-01".to_owned(),
            hours: None,
        }];
        assert_eq!(hours("Moon/Base", date(2026, 12, 1), &of), []);
        assert_eq!(hours("Moon/Base", date(2026, 12, 2), &of).len(), 1);
    }
}
