//! A checker that knows nothing of how a day is laid: the rules and the objective again, from the day that was asked for and
//! the bars alone. What it finds is wrong with the laying, not with the day.

use crate::planning::day::{
    Activity, Blade, Day, Fire, Past, Sharing, Station, Unattended, Window,
};
use crate::planning::plan::{Bar, Plan};
use std::collections::BTreeMap;

/// Temperatures nearer than this are one, °C.
const NEAR_C: f64 = 0.01;
/// A set point counts as another from here, °C.
const SET_C: f64 = 0.5;
/// A bath may be off by rounding, °C.
const BATH_C: f64 = 1e-3;
/// What begins before the horizon may end so much later, s.
const AFTER_S: i64 = 86_400;

/// An activity of a blade.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Which {
    /// The blade.
    pub blade: String,
    /// Its activity, from 0.
    pub activity: usize,
}

/// Somewhere at some time.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct There {
    /// A station, or an operator.
    pub at: String,
    /// When, s.
    pub time_s: i64,
}

/// A rule that is broken.
#[derive(Debug, Clone, PartialEq)]
pub enum Breach {
    /// An activity is there twice.
    Twice(Which),
    /// A blade that is not left out is not all there.
    Incomplete(String),
    /// It begins before the one before it is over.
    Order(Which),
    /// It begins before now, or before its blade is there.
    Early(Which),
    /// It is off the grid.
    OffGrid(Which),
    /// What was done is not where it was.
    PastMoved(Which),
    /// It cannot be done there.
    Station(Which),
    /// It does not take as long as it needs.
    Short(Which),
    /// It stays longer than it bears, by so many seconds.
    TooLong(Which, i64),
    /// It ends beyond the horizon.
    Horizon(Which),
    /// Too hot or too cool, at so many °C.
    Window(Which, f64),
    /// Too long after another, by so many seconds.
    Gap(Which, i64),
    /// Two heats in one fire at once.
    OneHeat(There),
    /// More in it than it holds.
    Full(There),
    /// A load begins before the last is over.
    Overlap(There),
    /// The fire does not stand at its heat.
    NotAtHeat(There),
    /// The bath is too warm or too cold, at so many °C.
    Bath(There, f64),
    /// Nobody is in the shop with it.
    LeftAlone(There),
    /// Nobody does it.
    Nobody(Which),
    /// They are not there.
    Away(There),
    /// They do not do that kind of thing.
    DoesNot(There, String),
    /// They have two hands.
    TwoHands(There),
    /// A pin does not hold, by so many seconds.
    Pin(Which, i64),
}

/// The objective, counted again.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Measures {
    /// Weight of blades that are left out.
    pub left_out: i64,
    /// Risk beyond what is accepted, ppm.
    pub risk_ppm: f64,
    /// Lateness by weight, s.
    pub late_s: i64,
    /// Length, hands, set points and risk, s.
    pub cost_s: f64,
    /// End of the day, s.
    pub end_s: i64,
    /// From first to last press, s.
    pub hands_s: i64,
    /// Set points changed.
    pub changes: i64,
    /// All risk, ppm.
    pub ppm: f64,
}

/// A plan held against its day.
#[derive(Debug, Clone, PartialEq)]
pub struct Judged {
    /// Rules that are broken.
    pub breaches: Vec<Breach>,
    /// The objective.
    pub measures: Measures,
}

/// Hands on something: from, to, half-hands, kind.
type Held = (i64, i64, i64, String);

/// A bar with what was asked of it.
#[derive(Clone, Copy)]
struct Done<'a> {
    blade: &'a Blade,
    activity: &'a Activity,
    bar: &'a Bar,
    past: Option<&'a Past>,
    over: bool,
}

impl Done<'_> {
    /// How hot the fire stands at its start, and how hot it is left, °C.
    fn heats(&self) -> (f64, f64) {
        let heat_c = self.bar.heat_c.unwrap_or(f64::NAN);
        let in_c = if self.activity.pre.is_some() {
            self.bar.preheat_c.unwrap_or(heat_c)
        } else {
            heat_c
        };
        (in_c, self.activity.leave_c.unwrap_or(heat_c))
    }

    fn stay_s(&self) -> i64 {
        self.activity.in_s + self.activity.heat_s + self.activity.hold_s
    }

    fn is_going_on(&self) -> bool {
        self.past.is_some() && !self.over
    }
}

struct Judge<'a> {
    day: &'a Day,
    bars: BTreeMap<(&'a str, usize), &'a Bar>,
    breaches: Vec<Breach>,
    held: BTreeMap<&'a str, Vec<Held>>,
    /// How much longer each stays hot than it needs, s.
    extra_s: BTreeMap<(&'a str, usize), i64>,
    changes: i64,
    presence: Vec<Window>,
}

/// Holds a plan against its day.
#[must_use]
pub fn judge(day: &Day, plan: &Plan) -> Judged {
    let mut hours: Vec<Window> = day.operators.iter().flat_map(|o| o.hours.clone()).collect();
    hours.sort_unstable();
    let mut presence: Vec<Window> = Vec::new();
    for (a, b) in hours {
        match presence.last_mut() {
            Some(last) if a <= last.1 => last.1 = last.1.max(b),
            _ => presence.push((a, b)),
        }
    }
    let mut judge = Judge {
        day,
        bars: BTreeMap::new(),
        breaches: Vec::new(),
        held: BTreeMap::new(),
        extra_s: BTreeMap::new(),
        changes: 0,
        presence,
    };
    for bar in &plan.bars {
        let key = (bar.blade.as_str(), bar.activity);
        if judge.bars.insert(key, bar).is_some() {
            judge.breaches.push(Breach::Twice(Which {
                blade: bar.blade.clone(),
                activity: bar.activity,
            }));
        }
    }
    let stays = |b: &&Blade| !plan.left_out.contains(&b.id);
    let blades: Vec<&Blade> = day.blades.iter().filter(stays).collect();
    let whole: Vec<&Blade> = blades.iter().copied().filter(|b| judge.blade(b)).collect();
    for station in &day.stations {
        judge.station(station, &whole);
    }
    let hands_s = judge.operators();
    judge.pins(&whole);
    let measures = judge.measures(&whole, plan, hands_s);
    Judged {
        breaches: judge.breaches,
        measures,
    }
}

impl<'a> Judge<'a> {
    fn done(&self, blade: &'a Blade, k: usize) -> Option<Done<'a>> {
        let bar = *self.bars.get(&(blade.id.as_str(), k))?;
        let mut past = self.day.past.iter();
        let past = past.find(|p| p.blade == blade.id && p.activity == k);
        Some(Done {
            blade,
            activity: &blade.activities[k],
            bar,
            past,
            over: past.is_some_and(|p| p.end_s.is_some_and(|end| end <= self.day.now_s)),
        })
    }

    fn station_of(&self, id: &str) -> Option<&'a Station> {
        self.day.stations.iter().find(|s| s.id == id)
    }

    fn up(&self, seconds: f64) -> i64 {
        (seconds / self.day.grid_s as f64 - 1e-9).ceil() as i64 * self.day.grid_s
    }

    /// The order of a blade, and each activity by itself; whether it is all there.
    fn blade(&mut self, blade: &'a Blade) -> bool {
        let all: Option<Vec<Done<'a>>> = (0..blade.activities.len())
            .map(|k| self.done(blade, k))
            .collect();
        let Some(all) = all else {
            let blade = blade.id.clone();
            self.breaches.push(Breach::Incomplete(blade));
            return false;
        };
        for (k, done) in all.iter().enumerate() {
            let before = k.checked_sub(1).map(|b| all[b].bar.end_s);
            self.alone(done, k, before);
        }
        for span in &blade.spans {
            let by_s = all[span.to].bar.start_s - all[span.from].bar.end_s - span.max_s;
            if by_s > 0 && !all[span.to].over {
                self.breaches.push(Breach::Gap(
                    Which {
                        blade: blade.id.clone(),
                        activity: span.to,
                    },
                    by_s,
                ));
            }
        }
        true
    }

    fn alone(&mut self, done: &Done<'a>, k: usize, before_s: Option<i64>) {
        let (bar, asked, day) = (done.bar, done.activity, self.day);
        let blade = || done.blade.id.clone();
        let mut wrong = Vec::new();
        if before_s.is_some_and(|end| bar.start_s < end) {
            wrong.push(Breach::Order(Which {
                blade: blade(),
                activity: k,
            }));
        }
        match done.past {
            None => {
                if bar.start_s < day.now_s.max(done.blade.release_s) {
                    wrong.push(Breach::Early(Which {
                        blade: blade(),
                        activity: k,
                    }));
                }
                let moments = [bar.start_s, bar.leave_s, bar.end_s];
                if moments.iter().any(|t| (t - day.now_s) % day.grid_s != 0) {
                    wrong.push(Breach::OffGrid(Which {
                        blade: blade(),
                        activity: k,
                    }));
                }
            }
            Some(past) => {
                let moved = bar.start_s != past.start_s
                    || (done.over && past.end_s.is_some_and(|end| end != bar.end_s));
                if moved {
                    wrong.push(Breach::PastMoved(Which {
                        blade: blade(),
                        activity: k,
                    }));
                }
            }
        }
        if !done.over {
            let station = bar.station.as_deref().and_then(|s| self.station_of(s));
            let eligible = bar.station.as_ref().is_some_and(|s| asked.at.contains(s));
            let fits =
                station.is_none_or(|s| s.depth_mm == 0.0 || done.blade.length_mm <= s.depth_mm);
            let in_air = asked.at.is_empty();
            if in_air == bar.station.is_some()
                || (!in_air && done.past.is_none() && !eligible)
                || !fits
            {
                wrong.push(Breach::Station(Which {
                    blade: blade(),
                    activity: k,
                }));
            }
            if in_air && bar.end_s - bar.start_s < asked.hold_s {
                wrong.push(Breach::Short(Which {
                    blade: blade(),
                    activity: k,
                }));
            }
            if bar.end_s > day.horizon_s + AFTER_S {
                wrong.push(Breach::Horizon(Which {
                    blade: blade(),
                    activity: k,
                }));
            }
            if let (Some(heat), Some(heat_c)) = (&asked.temp, bar.heat_c)
                && station.is_some_and(|s| s.fire.is_some())
                && done.past.is_none()
                && !(heat.low_c - NEAR_C..=heat.high_c + NEAR_C).contains(&heat_c)
            {
                wrong.push(Breach::Window(
                    Which {
                        blade: blade(),
                        activity: k,
                    },
                    heat_c,
                ));
            }
        }
        self.breaches.append(&mut wrong);
    }

    fn ramp_s(&self, fire: &Fire, from_c: f64, to_c: f64) -> i64 {
        if (from_c - to_c).abs() < NEAR_C {
            return 0;
        }
        if to_c > from_c {
            return self.up(fire.heat_s_per_c * (to_c - from_c));
        }
        let room = self.day.ambient_c;
        self.up(fire.cool_tau_s * ((from_c - room) / (to_c - room)).ln())
    }

    /// Whether a fire that was left so hot can stand at another heat by a moment.
    fn stands(
        &self,
        station: &Station,
        (left_c, left_s): (f64, i64),
        to_c: f64,
        by_s: i64,
    ) -> bool {
        let Some(fire) = &station.fire else {
            return true;
        };
        if station.unattended == Unattended::Always {
            return left_s + self.ramp_s(fire, left_c, to_c) <= by_s;
        }
        let room = self.day.ambient_c;
        let alone = |c: f64, s: i64| room + (c - room) * (-(s as f64) / fire.cool_tau_s).exp();
        let (mut c, mut t) = (left_c, left_s);
        for &(from, to) in self.presence.iter().filter(|w| w.1 > left_s) {
            if from >= by_s {
                break;
            }
            if t < from {
                c = alone(c, from - t);
                t = from;
            }
            let ready = t + self.ramp_s(fire, c, to_c);
            if ready <= to {
                if ready <= by_s && by_s <= to {
                    return true;
                }
                c = to_c;
            } else if to_c > c {
                c += (to - t) as f64 / fire.heat_s_per_c;
            } else {
                c = alone(c, to - t).max(to_c);
            }
            t = to;
        }
        false
    }

    fn units(&self, blade: &Blade, station: &Station) -> i64 {
        let short = station.depth_mm == 0.0 || blade.length_mm <= 0.5 * station.depth_mm;
        if short { 1 } else { 2 }
    }

    fn is_attended(&self, from_s: i64, to_s: i64) -> bool {
        let mut windows = self.presence.iter();
        windows.any(|w| w.0 <= from_s && to_s <= w.1)
    }

    fn hold(&mut self, done: &Done<'a>, who: Option<&'a String>, held: (i64, i64, i64)) {
        let Some(who) = who else {
            self.breaches.push(Breach::Nobody(Which {
                blade: done.blade.id.clone(),
                activity: done.bar.activity,
            }));
            return;
        };
        let kind = done.activity.kind.clone();
        let all = self.held.entry(who).or_default();
        all.push((held.0, held.1, held.2, kind));
    }

    fn station(&mut self, station: &'a Station, blades: &[&'a Blade]) {
        let mut here: Vec<Done<'a>> = blades
            .iter()
            .flat_map(|b| (0..b.activities.len()).map(|k| (*b, k)))
            .filter_map(|(b, k)| self.done(b, k))
            .filter(|d| d.bar.station.as_deref() == Some(station.id.as_str()))
            .collect();
        here.sort_by_key(|d| d.bar.start_s);
        let groups = match station.sharing {
            Sharing::Load => self.loads(station, &here),
            Sharing::Rolling => self.rolling(station, &here),
        };
        if let Some(fire) = &station.fire {
            let (mut c, mut t) = (fire.start_c, fire.start_s);
            for (from, to, in_c, out_c) in groups {
                if from >= self.day.now_s && !self.stands(station, (c, t), in_c, from) {
                    self.breaches.push(Breach::NotAtHeat(There {
                        at: station.id.clone(),
                        time_s: from,
                    }));
                }
                self.changes += i64::from((in_c - c).abs() > SET_C);
                (c, t) = (out_c, to);
            }
        }
        self.bath(station, &here);
    }

    fn loads(&mut self, station: &'a Station, here: &[Done<'a>]) -> Vec<(i64, i64, f64, f64)> {
        let mut groups: Vec<(i64, i64, f64, f64)> = Vec::new();
        for load in here.chunk_by(|a, b| a.bar.start_s == b.bar.start_s) {
            let lead = load[0];
            let at_s = lead.bar.start_s;
            let name = || station.id.clone();
            let heats = lead.heats();
            let alike = load.iter().all(|d| {
                let (a, b) = d.heats();
                (a - heats.0).abs() < NEAR_C
                    && (b - heats.1).abs() < NEAR_C
                    && d.activity.pre.is_some() == lead.activity.pre.is_some()
            });
            if !alike {
                self.breaches.push(Breach::OneHeat(There {
                    at: name(),
                    time_s: at_s,
                }));
            }
            let units: i64 = load.iter().map(|d| self.units(d.blade, station)).sum();
            if units > station.units {
                self.breaches.push(Breach::Full(There {
                    at: name(),
                    time_s: at_s,
                }));
            }
            let end_s = load.iter().map(|d| d.bar.end_s).max().unwrap_or(at_s);
            if groups.last().is_some_and(|last| at_s < last.1) {
                self.breaches.push(Breach::Overlap(There {
                    at: name(),
                    time_s: at_s,
                }));
            }
            groups.push((at_s, end_s, heats.0, heats.1));
            self.load(station, load, (at_s, end_s));
        }
        groups
    }

    fn load(&mut self, station: &'a Station, load: &[Done<'a>], (at_s, end_s): (i64, i64)) {
        let attended = station.attention > 0;
        let more = 1.0 + station.more_per_blade * (load.len() as f64 - 1.0);
        let going_in: i64 = load.iter().map(|d| d.activity.in_s).sum();
        let mut head_s = if attended { 0 } else { going_in };
        if load[0].activity.pre.is_some() {
            let even = load.iter().filter_map(|d| d.activity.pre);
            let even_s = even
                .map(|p| self.up(p.heat_s as f64 * more) + p.hold_s)
                .max();
            let (from_c, to_c) = (load[0].bar.preheat_c, load[0].bar.heat_c);
            let ramp = station.fire.as_ref().zip(from_c.zip(to_c));
            head_s += even_s.unwrap_or(0) + ramp.map_or(0, |(f, (a, b))| self.ramp_s(f, a, b));
        }
        let all_going = load.iter().all(|d| d.past.is_some());
        for done in load {
            let asked = done.activity;
            let least_s = at_s + head_s + self.up(asked.heat_s as f64 * more) + asked.hold_s;
            self.stayed(done, least_s, asked.extra_s, true);
            if done.over {
                continue;
            }
            if asked.out_s > 0 && !attended {
                let out = (done.bar.leave_s, done.bar.end_s, 2);
                self.hold(done, done.bar.hands[2].as_ref(), out);
            }
        }
        if all_going {
            return;
        }
        if !attended && going_in > 0 {
            let who = load[0].bar.hands[0].as_ref();
            self.hold(&load[0], who, (at_s, at_s + going_in, 2));
        }
        if attended {
            let until = load.iter().map(|d| d.bar.leave_s).max().unwrap_or(at_s);
            let who = load[0].bar.hands[1].as_ref();
            self.hold(&load[0], who, (at_s, until, station.attention));
        }
        if station.unattended == Unattended::Present && !self.is_attended(at_s, end_s) {
            self.breaches.push(Breach::LeftAlone(There {
                at: station.id.clone(),
                time_s: at_s,
            }));
        }
    }

    /// Whether something stayed as long as it needs and no longer than it bears.
    fn stayed(&mut self, done: &Done<'a>, least_s: i64, extra_s: i64, counts: bool) {
        let (blade, activity) = (&done.blade.id, done.bar.activity);
        let more_s = (done.bar.leave_s - least_s).max(0);
        let counted = if counts { more_s } else { 0 };
        self.extra_s.insert((blade.as_str(), activity), counted);
        if done.over {
            return;
        }
        if done.bar.leave_s < least_s {
            self.breaches.push(Breach::Short(Which {
                blade: blade.clone(),
                activity,
            }));
        }
        let mut from_s = least_s;
        if let Some(past) = done.past {
            from_s = from_s.max(self.day.now_s).max(past.until_s.unwrap_or(0));
        }
        let by_s = done.bar.leave_s - from_s - extra_s;
        if by_s > 0 {
            self.breaches.push(Breach::TooLong(
                Which {
                    blade: blade.clone(),
                    activity,
                },
                by_s,
            ));
        }
    }

    fn rolling(&mut self, station: &'a Station, here: &[Done<'a>]) -> Vec<(i64, i64, f64, f64)> {
        for done in here {
            let (bar, asked) = (done.bar, done.activity);
            let least_s = bar.start_s + done.stay_s();
            let extra_s = asked.extra_s.max(station.timer_extra_s);
            self.stayed(done, least_s, extra_s, station.timer_extra_s == 0);
            if done.over {
                continue;
            }
            if done.is_going_on() {
                if asked.attention > 0
                    && let Some(who) = &bar.hands[1]
                {
                    let held = (self.day.now_s, bar.end_s, asked.attention);
                    self.hold(done, Some(who), held);
                }
            } else {
                if station.unattended == Unattended::Present
                    && !self.is_attended(bar.start_s, bar.end_s)
                {
                    self.breaches.push(Breach::LeftAlone(There {
                        at: station.id.clone(),
                        time_s: bar.start_s,
                    }));
                }
                if asked.attention > 0 {
                    let held = (bar.start_s, bar.end_s, asked.attention);
                    self.hold(done, bar.hands[1].as_ref(), held);
                }
                if asked.in_s > 0 {
                    let held = (bar.start_s, bar.start_s + asked.in_s, 2);
                    self.hold(done, bar.hands[0].as_ref(), held);
                }
            }
            if asked.out_s > 0 && asked.attention == 0 {
                self.hold(done, bar.hands[2].as_ref(), (bar.leave_s, bar.end_s, 2));
            }
        }
        for done in here {
            let at_s = done.bar.start_s;
            let together = || {
                let all = here.iter();
                all.filter(move |d| d.bar.start_s <= at_s && at_s < d.bar.end_s)
            };
            let units: i64 = together().map(|d| self.units(d.blade, station)).sum();
            if units > station.units {
                self.breaches.push(Breach::Full(There {
                    at: station.id.clone(),
                    time_s: at_s,
                }));
            }
            let (in_c, _) = done.heats();
            let other = |d: &Done<'_>| (d.heats().0 - in_c).abs() > NEAR_C;
            if station.fire.is_some() && together().any(other) {
                self.breaches.push(Breach::OneHeat(There {
                    at: station.id.clone(),
                    time_s: at_s,
                }));
            }
        }
        let mut groups: Vec<(i64, i64, f64, f64)> = Vec::new();
        for done in here {
            let (in_c, out_c) = done.heats();
            match groups.last_mut() {
                Some(last) if done.bar.start_s < last.1 => last.1 = last.1.max(done.bar.end_s),
                _ => groups.push((done.bar.start_s, done.bar.end_s, in_c, out_c)),
            }
        }
        groups
    }

    fn bath(&mut self, station: &Station, here: &[Done<'a>]) {
        let Some(bath) = &station.bath else { return };
        let (mut c, mut t) = (bath.start_c, self.day.now_s);
        for done in here {
            let at_s = done.bar.start_s;
            let Some(quench) = &done.activity.quench else {
                continue;
            };
            let for_s = (at_s - t).max(0) as f64;
            c = bath.rest_c + (c - bath.rest_c) * (-for_s / bath.tau_s).exp();
            t = at_s;
            let bears = quench.low_c - BATH_C..=quench.high_c + BATH_C;
            if at_s >= self.day.now_s && !bears.contains(&c) {
                self.breaches.push(Breach::Bath(
                    There {
                        at: station.id.clone(),
                        time_s: at_s,
                    },
                    c,
                ));
            }
            c += quench.warms_j / bath.j_per_c;
        }
    }

    /// Hands of every operator; from the first to the last press in all shifts, s.
    fn operators(&mut self) -> i64 {
        let mut sum_s = 0;
        for operator in &self.day.operators {
            let Some(held) = self.held.get(operator.id.as_str()) else {
                continue;
            };
            let name = || operator.id.clone();
            for (from, to, _, kind) in held {
                let there = operator.hours.iter().any(|h| h.0 <= *from && to <= &h.1);
                let pauses = operator.breaks.iter().any(|b| b.0 < *to && b.1 > *from);
                if !there || pauses {
                    self.breaches.push(Breach::Away(There {
                        at: name(),
                        time_s: *from,
                    }));
                }
                if operator.not.contains(kind) {
                    self.breaches.push(Breach::DoesNot(
                        There {
                            at: name(),
                            time_s: *from,
                        },
                        kind.clone(),
                    ));
                }
                let at_once = held.iter().filter(|h| h.0 <= *from && *from < h.1);
                if at_once.map(|h| h.2).sum::<i64>() > 2 {
                    self.breaches.push(Breach::TwoHands(There {
                        at: name(),
                        time_s: *from,
                    }));
                }
            }
            for hours in &operator.hours {
                let inside = || held.iter().filter(|h| h.0 >= hours.0 && h.1 <= hours.1);
                let first = inside().map(|h| h.0).min();
                let last = inside().map(|h| h.1).max();
                sum_s += first.zip(last).map_or(0, |(a, b)| b - a);
            }
        }
        sum_s
    }

    fn pins(&mut self, blades: &[&'a Blade]) {
        for pin in &self.day.pins {
            let Some(blade) = blades.iter().find(|b| b.id == pin.blade) else {
                continue;
            };
            let Some(done) = self.done(blade, pin.activity) else {
                continue;
            };
            let by_s = done.bar.start_s - pin.start_s;
            if by_s != 0 {
                self.breaches.push(Breach::Pin(
                    Which {
                        blade: pin.blade.clone(),
                        activity: pin.activity,
                    },
                    by_s,
                ));
            }
        }
    }

    fn measures(&self, blades: &[&'a Blade], plan: &Plan, hands_s: i64) -> Measures {
        let (day, price) = (self.day, &self.day.price);
        let left = day.blades.iter().filter(|b| plan.left_out.contains(&b.id));
        let mut found = Measures {
            left_out: left.map(|b| b.weight).sum(),
            end_s: day.now_s,
            hands_s,
            changes: self.changes,
            ..Measures::default()
        };
        for blade in blades {
            let all: Vec<Done<'_>> = (0..blade.activities.len())
                .filter_map(|k| self.done(blade, k))
                .collect();
            let mut ppm = 0.0;
            for span in &blade.spans {
                let Some(risk) = &span.risk else { continue };
                let between = &blade.activities[span.from + 1..span.to];
                let least_s: i64 = between
                    .iter()
                    .map(|a| a.in_s + a.heat_s + a.hold_s + a.out_s)
                    .sum();
                let gap_s = all[span.to].bar.start_s - all[span.from].bar.end_s;
                let at = |s: i64| {
                    let z = risk.base + risk.per_ln_hour * (1.0 + s as f64 / 3600.0).ln();
                    1.0 / (1.0 + (-z).exp())
                };
                ppm += 1e6 * (at(gap_s.max(0)) - at(least_s.min(gap_s.max(0))));
            }
            for done in &all {
                if let (Some(heat), Some(c)) = (&done.activity.temp, done.bar.heat_c) {
                    ppm += if c < heat.nominal_c {
                        (heat.nominal_c - c) * heat.ppm_per_c_under
                    } else {
                        (c - heat.nominal_c) * heat.ppm_per_c_over
                    };
                }
                let key = (blade.id.as_str(), done.bar.activity);
                let extra_s = self.extra_s.get(&key).copied().unwrap_or(0);
                ppm += done.activity.extra_ppm_per_min * extra_s as f64 / 60.0;
            }
            found.ppm += ppm;
            found.risk_ppm += (ppm - price.accept_ppm as f64).max(0.0);
            let end_s = all.last().map_or(day.now_s, |d| d.bar.end_s);
            found.end_s = found.end_s.max(end_s);
            if let Some(due_s) = blade.due_s {
                found.late_s += blade.weight * (end_s - due_s).max(0);
            }
        }
        found.cost_s = (found.end_s - day.now_s) as f64
            + price.hands * hands_s as f64
            + price.change_s * found.changes as f64
            + price.s_per_1000ppm * found.ppm / 1000.0;
        found
    }
}
