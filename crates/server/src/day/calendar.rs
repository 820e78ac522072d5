//! A shop's days as a calendar (RFC 5545): one event for each moment that asks for hands, with an alarm ahead.

use crate::day::view::{DayBarView, DayView};
use ics::components::Property;
use ics::escape_text;
use ics::properties::{Description, DtEnd, DtStart, Location, Summary, Trigger};
use ics::{Alarm, Event, ICalendar};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use std::collections::BTreeMap;
use vatten_core::planning::activities::Phase;
use vatten_core::process::step::StepKind;

/// An alarm rings so long before.
const AHEAD: &str = "-PT5M";
/// Who made it, as the standard asks for.
const MAKER: &str = "-//Vatten//Day//EN";
/// How often a subscriber should look again.
const AGAIN: &str = "PT5M";

fn utc(at_s: i64) -> String {
    let at = Timestamp::from_second(at_s).unwrap_or(Timestamp::UNIX_EPOCH);
    at.strftime("%Y%m%dT%H%M%SZ").to_string()
}

/// What there is to do, in the imperative.
const fn to_do(kind: StepKind) -> &'static str {
    match kind {
        StepKind::Normalize => "normalize",
        StepKind::Refine => "refine",
        StepKind::Anneal => "anneal",
        StepKind::StressRelief => "stress relieve",
        StepKind::Preheat => "preheat",
        StepKind::Austenitize => "heat to harden",
        StepKind::Quench => "quench",
        StepKind::SubZero => "into the cold",
        StepKind::Temper => "temper",
        StepKind::TorchTemper => "soften with the torch",
        StepKind::Straighten => "straighten",
        StepKind::Coat => "coat",
        StepKind::Pouch => "close the pouch",
        StepKind::Clay => "clay",
        StepKind::Stamp => "stamp",
        StepKind::Check => "look it over",
        StepKind::Cool => "let cool",
    }
}

/// A moment that asks for hands.
struct Moment<'a> {
    bar: &'a DayBarView,
    /// What tells it from the others of its bar.
    which: &'static str,
    from_s: i64,
    to_s: i64,
    who: Option<&'a str>,
}

fn moments(bar: &DayBarView) -> Vec<Moment<'_>> {
    let who = |n: usize| bar.bar.hands.get(n).and_then(Option::as_deref);
    let of = &bar.bar;
    if bar.attended {
        return vec![Moment {
            bar,
            which: "at",
            from_s: of.start_s,
            to_s: of.end_s,
            who: who(1),
        }];
    }
    let mut all = Vec::new();
    if bar.in_s > 0 {
        all.push(Moment {
            bar,
            which: "in",
            from_s: of.start_s,
            to_s: of.start_s + bar.in_s,
            who: who(0),
        });
    }
    if bar.out_s > 0 {
        all.push(Moment {
            bar,
            which: "out",
            from_s: of.leave_s,
            to_s: of.leave_s + bar.out_s,
            who: who(2),
        });
    }
    all
}

/// The calendar of a day. Its moments are in UTC, which every reader shows in its own zone; the shop's is told beside them.
#[must_use]
pub fn calendar(
    day: &DayView,
    shop: &str,
    zone: &TimeZone,
    station_names: &BTreeMap<String, String>,
) -> String {
    let mut calendar = ICalendar::new("2.0", MAKER);
    calendar.push(Property::new("CALSCALE", "GREGORIAN"));
    calendar.push(Property::new("METHOD", "PUBLISH"));
    calendar.push(Property::new("X-WR-CALNAME", escape_text(shop.to_owned())));
    if let Some(name) = zone.iana_name() {
        calendar.push(Property::new("X-WR-TIMEZONE", name.to_owned()));
    }
    calendar.push(Property::new("X-PUBLISHED-TTL", AGAIN));
    let marks: BTreeMap<String, &str> = day
        .blades
        .iter()
        .map(|b| (b.blade_id.to_string(), b.mark.as_str()))
        .collect();
    for moment in day.bars.iter().flat_map(moments) {
        let of = &moment.bar.bar;
        let mark = marks.get(&of.blade).copied().unwrap_or_default();
        let doing = match (moment.which, moment.bar.phase) {
            ("out", Phase::Temper) => "out of the temper",
            ("out", Phase::Cold) => "out of the cold",
            ("out", _) => "out of the fire",
            _ => to_do(moment.bar.step_kind),
        };
        let uid = format!("{}-{}-{}@vatten", of.blade, of.activity, moment.which);
        let mut event = Event::new(uid, utc(day.now_s));
        event.push(DtStart::new(utc(moment.from_s)));
        event.push(DtEnd::new(utc(moment.to_s.max(moment.from_s + 60))));
        event.push(Summary::new(escape_text(format!("{mark}: {doing}"))));
        if let Some(name) = of.station.as_ref().and_then(|s| station_names.get(s)) {
            event.push(Location::new(escape_text(name.clone())));
        }
        if let Some(who) = moment.who {
            event.push(Description::new(escape_text(who.to_owned())));
        }
        event.add_alarm(Alarm::display(
            Trigger::new(AHEAD),
            Description::new(escape_text(format!("{mark}: {doing}"))),
        ));
        calendar.add_event(event);
    }
    calendar.to_string()
}
