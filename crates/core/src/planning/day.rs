//! A day as it is asked for: blades with what is to be done to each, stations, operators, what is pinned and what was done.
//!
//! Times are whole seconds from a zero that the caller knows, on a grid; there is no time of day in them, so that a change of
//! the clock cannot harm. Prices are parts per million of a blade: what a departure costs in the chance that it comes out
//! right.

use serde::{Deserialize, Serialize};

/// From and to, s.
pub type Window = (i64, i64);

/// A day to be laid.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Day {
    /// What it is called.
    pub id: String,
    /// Starts and lengths are multiples of this, s.
    #[serde(default = "usual_grid_s")]
    pub grid_s: i64,
    /// Nothing begins before, s.
    pub now_s: i64,
    /// Nothing begins after, s.
    pub horizon_s: i64,
    /// What fires cool towards, °C.
    #[serde(default = "usual_ambient_c")]
    pub ambient_c: f64,
    /// What counts how much.
    pub price: Price,
    /// Who is there.
    pub operators: Vec<Operator>,
    /// Where it is done.
    pub stations: Vec<Station>,
    /// What is done.
    pub blades: Vec<Blade>,
    /// Starts that were pinned by hand.
    #[serde(default)]
    pub pins: Vec<Start>,
    /// What was done, and what is going on.
    #[serde(default)]
    pub past: Vec<Past>,
    /// The plan that people know: moving it costs.
    #[serde(default)]
    pub before: Vec<Start>,
}

const fn usual_grid_s() -> i64 {
    30
}

const fn usual_ambient_c() -> f64 {
    20.0
}

const fn once() -> i64 {
    1
}

/// What counts how much.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Price {
    /// Risk of a blade that costs nothing, ppm.
    pub accept_ppm: i64,
    /// What a thousandth of a blade is worth, s of the day.
    pub s_per_1000ppm: f64,
    /// Share of the time from the first to the last press of an operator in a shift that counts.
    pub hands: f64,
    /// What another set point costs, s.
    pub change_s: f64,
    /// Share of what a known start is moved by that counts, at most an hour of each.
    #[serde(default)]
    pub moved: f64,
}

/// Somebody who can take hold.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Operator {
    /// Who.
    pub id: String,
    /// When they are there.
    pub hours: Vec<Window>,
    /// When they are away in between.
    #[serde(default)]
    pub breaks: Vec<Window>,
    /// Kinds of activity that they do not do.
    #[serde(default)]
    pub not: Vec<String>,
}

/// How blades share a station.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Sharing {
    /// In together, out one by one: a kiln, a forge.
    Load,
    /// In and out at any time: an oven, a bench, a tank.
    Rolling,
}

/// Whether a station may run with nobody there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Unattended {
    /// Somebody has to be in the shop.
    Present,
    /// It may run alone.
    Always,
}

/// How a fire heats and cools.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Fire {
    /// How hot it was left, °C.
    pub start_c: f64,
    /// When, s.
    pub start_s: i64,
    /// How long a degree takes, s/°C.
    pub heat_s_per_c: f64,
    /// How fast it cools towards the room: its time constant, s.
    pub cool_tau_s: f64,
}

/// How a bath warms and recovers.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Bath {
    /// How warm it is now, °C.
    pub start_c: f64,
    /// What it goes back to, °C.
    pub rest_c: f64,
    /// How fast: its time constant, s.
    pub tau_s: f64,
    /// What a degree takes, J/°C.
    pub j_per_c: f64,
}

/// A place of the shop where something is done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Station {
    /// Which.
    pub id: String,
    /// What kind of thing it is.
    pub kind: String,
    /// How blades share it.
    pub sharing: Sharing,
    /// Places: a blade longer than half its depth takes two.
    pub units: i64,
    /// How long a blade goes in, mm; 0 for any.
    #[serde(default)]
    pub depth_mm: f64,
    /// Half-hands it takes as long as anything is in it.
    #[serde(default)]
    pub attention: i64,
    /// Whether it may run with nobody there.
    pub unattended: Unattended,
    /// How much longer every further blade in it takes to heat, as a share.
    #[serde(default)]
    pub more_per_blade: f64,
    /// It switches itself off: what is in it may lie so much longer, s.
    #[serde(default)]
    pub timer_extra_s: i64,
    /// Its fire.
    pub fire: Option<Fire>,
    /// Its bath.
    pub bath: Option<Bath>,
}

/// At how many degrees, and what a departure costs.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Heat {
    /// As planned, °C.
    pub nominal_c: f64,
    /// Least, °C.
    pub low_c: f64,
    /// Most, °C.
    pub high_c: f64,
    /// What a degree less costs, ppm.
    #[serde(default)]
    pub ppm_per_c_under: f64,
    /// What a degree more costs, ppm.
    #[serde(default)]
    pub ppm_per_c_over: f64,
    /// How much harder a degree more leaves it in the end, HRC.
    #[serde(default)]
    pub hrc_per_c: f64,
}

impl Heat {
    /// What it costs at `t`, ppm.
    #[must_use]
    pub fn departs_ppm(&self, t: f64) -> f64 {
        if t < self.nominal_c {
            (self.nominal_c - t) * self.ppm_per_c_under
        } else {
            (t - self.nominal_c) * self.ppm_per_c_over
        }
    }
}

/// An even heat in the same fire before the hardening heat.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Preheat {
    /// As planned, °C.
    pub nominal_c: f64,
    /// Least, °C.
    pub low_c: f64,
    /// Most, °C.
    pub high_c: f64,
    /// Until it is even, s.
    pub heat_s: i64,
    /// Held so long, s.
    pub hold_s: i64,
}

/// What a quench asks of its bath, and gives to it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Quench {
    /// Coolest, °C.
    pub low_c: f64,
    /// Warmest, °C.
    pub high_c: f64,
    /// Heat of the blade, J.
    pub warms_j: f64,
}

/// One thing that is done to a blade.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Activity {
    /// What kind of thing.
    pub kind: String,
    /// Stations that it may be done at; none in the air.
    #[serde(default)]
    pub at: Vec<String>,
    /// Putting it in takes both hands so long, s.
    #[serde(default)]
    pub in_s: i64,
    /// Until it is at heat, s.
    #[serde(default)]
    pub heat_s: i64,
    /// Held so long, s.
    pub hold_s: i64,
    /// Taking it out takes both hands so long, s.
    #[serde(default)]
    pub out_s: i64,
    /// Half-hands that it takes all the while.
    #[serde(default)]
    pub attention: i64,
    /// At how many degrees.
    pub temp: Option<Heat>,
    /// The even heat before.
    pub pre: Option<Preheat>,
    /// How hot the fire is left, where that is not as hot as it was, °C.
    pub leave_c: Option<f64>,
    /// How much longer it may stay, s.
    #[serde(default)]
    pub extra_s: i64,
    /// What a minute of that costs, ppm.
    #[serde(default)]
    pub extra_ppm_per_min: f64,
    /// What it asks of a bath.
    pub quench: Option<Quench>,
}

/// How a risk grows with a wait: logistic in the logarithm of the hours.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Risk {
    /// Log-odds without any wait.
    pub base: f64,
    /// Log-odds more for each unit of ln(1 + hours).
    pub per_ln_hour: f64,
}

impl Risk {
    fn chance(&self, wait_s: i64) -> f64 {
        let z = self.base + self.per_ln_hour * (1.0 + wait_s as f64 / 3600.0).ln();
        1.0 / (1.0 + (-z).exp())
    }

    /// What a wait costs beyond the shortest there can be, ppm.
    #[must_use]
    pub fn ppm(&self, wait_s: i64, least_s: i64) -> f64 {
        let wait_s = wait_s.max(0);
        1e6 * (self.chance(wait_s) - self.chance(least_s.min(wait_s)))
    }
}

/// How long one activity of a blade may be after the end of another.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Span {
    /// From the end of this one,
    pub from: usize,
    /// to the start of this.
    pub to: usize,
    /// At most so long, s.
    pub max_s: i64,
    /// What waiting costs.
    pub risk: Option<Risk>,
}

/// A blade with what is to be done to it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Blade {
    /// Which.
    pub id: String,
    /// Its steel.
    #[serde(default)]
    pub steel: String,
    /// From end to end, mm.
    pub length_mm: f64,
    /// Not before, s.
    #[serde(default)]
    pub release_s: i64,
    /// Wanted by, s.
    pub due_s: Option<i64>,
    /// What it counts against the others.
    #[serde(default = "once")]
    pub weight: i64,
    /// What is done, in order.
    pub activities: Vec<Activity>,
    /// How long between.
    pub spans: Vec<Span>,
}

/// When an activity of a blade starts.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Start {
    /// The blade.
    pub blade: String,
    /// Its activity, from 0.
    pub activity: usize,
    /// When, s.
    pub start_s: i64,
}

/// What was done, or is going on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Past {
    /// The blade.
    pub blade: String,
    /// Its activity, from 0.
    pub activity: usize,
    /// Where.
    pub station: Option<String>,
    /// Since when, s.
    pub start_s: i64,
    /// How hot, °C.
    pub temperature_c: Option<f64>,
    /// How hot the even heat before was, °C.
    pub pre_c: Option<f64>,
    /// When it came out, s; none while it is in.
    pub leave_s: Option<i64>,
    /// When it was over, s; none while it is going on.
    pub end_s: Option<i64>,
    /// It is known to take until then at least, s.
    pub until_s: Option<i64>,
}
