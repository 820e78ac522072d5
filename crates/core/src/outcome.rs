//! What the whole blade does in the quench: hamon, bend, crack, grain, skin, and the soak before it.

use crate::check::{Checked, checked};
use crate::clay::{Clay, Lay};
use crate::crack::{self, Causes, Risk};
use crate::decarburization;
use crate::film::{Agitation, Film};
use crate::form::Grid;
use crate::grain;
use crate::hamon::{Hamon, Moved, NoLine, columns, line_of};
use crate::hand::Hand;
use crate::heat::{Heat, STRIP_AT};
use crate::heating::{Load, Soak, time_to_heat_s};
use crate::interval::{Interval, NINETY, upper_tail};
use crate::learn::habit::{self, Habit, Shift, Traits};
use crate::medium::Medium;
use crate::physics::stages;
use crate::plan::{Plan, Stage, Step};
use crate::quench::{Quenched, Setup, Stopped, quench};
use crate::reason::{About, Reason, Why};
use crate::simulated::{STEP_MM, Simulated};
use crate::steel::{Hardening, Steel};
use crate::thermal::DENSITY;
use crate::units::Quantity;
use crate::work::Work;
use serde::{Deserialize, Serialize};
use std::sync::atomic::AtomicBool;

/// How a blade bends in the quench.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BendOutcome {
    /// Sag from heel to tip, mm; positive: edge convex, spine-in.
    pub sori_mm: f64,
    /// Sag sideways for each 10 % more cooling on one face, mm.
    pub side_mm_per_10_percent: f64,
    /// Chance that it ends more out of line sideways than the tolerance, 0 to 1.
    pub side_over_tolerance_probability: f64,
    /// What can be left without straightening, mm.
    pub tolerance_mm: f64,
    /// Sag sideways that one quench in ten exceeds, mm.
    pub side_ninety_mm: f64,
}

/// 90 % intervals of the outcomes that are plain numbers.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ranges {
    /// ASTM grain size number.
    pub grain_astm: Interval,
    /// Skin that loses carbon, mm.
    pub decarburization_mm: Interval,
    /// Hardened share of the middle, percent.
    pub martensite_percent_middle: Interval,
    /// Sag towards the spine, mm.
    pub sori_mm: Interval,
    /// Mean height of the line, mm; none without a line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hamon_mm: Option<Interval>,
}

/// Everything that the quench of the whole blade decides.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Outcomes {
    /// The line, or why there is none.
    pub hamon: Hamon,
    /// How much of the middle of the blade hardens, percent.
    pub martensite_percent_middle: f64,
    /// Bend.
    pub bend: BendOutcome,
    /// Risk of a crack.
    pub crack: Risk,
    /// What speaks for one, so that what comes of it can be learned from.
    #[serde(default)]
    pub crack_causes: Causes,
    /// ASTM grain size number at the quench.
    pub grain_astm: f64,
    /// How much of that number comes from the shop's broken coupons.
    #[serde(default)]
    pub grain_learned: f64,
    /// Depth of skin that loses carbon, mm.
    pub decarburization_mm: f64,
    /// When the parts are at heat, and the soak.
    pub soak: Soak,
    /// 90 % intervals.
    pub ranges: Ranges,
    /// The checks before the fire, with what each costs on this blade.
    #[serde(default)]
    pub checks: Vec<Checked>,
    /// What laying the clay on amounts to; none when bare.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub clay: Option<Lay>,
    /// The grid was coarser than asked for, to keep within its limit: its step, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub coarsened_to_mm: Option<f64>,
    /// Why.
    pub outcome_reasons: Vec<Reason>,
}

/// What a shop has taught of outcomes other than hardness.
#[derive(Debug, Clone)]
pub struct Habits {
    /// Cracks.
    pub crack: crack::Model,
    /// What those were learned from.
    pub cracks: Vec<crack::Seen>,
    /// How uneven this smith's quenches are: logarithm against [`UNEVENNESS_PERCENT`].
    pub sag: Habit,
    /// How much higher the line comes out than simulated, mm.
    pub line: Habit,
    /// Where a line is found that the simulation does not show, as a share of the section.
    pub unseen: Habit,
    /// How much wider its band comes out: logarithm.
    pub clarity: Habit,
    /// How much finer the grain of broken coupons is, ASTM numbers.
    pub grain: Habit,
    /// Who is taken to quench the next blade.
    pub hand: Option<Hand>,
}

/// Unevenness of a quench before any record: one standard deviation of the difference between the
/// faces, in percent of cooling.
pub const UNEVENNESS_PERCENT: f64 = 8.0;

impl Default for Habits {
    fn default() -> Self {
        Self {
            crack: crack::Model::default(),
            cracks: Vec::new(),
            sag: Habit::unknown(habit::SAG),
            line: Habit::unknown(habit::LINE),
            unseen: Habit::unknown(habit::UNSEEN),
            clarity: Habit::unknown(habit::CLARITY),
            grain: Habit::unknown(habit::GRAIN),
            hand: None,
        }
    }
}

impl Habits {
    /// What a plan shares with the shop's other quenches of this steel.
    #[must_use]
    pub fn traits(&self, plan: &Plan, steel: &Steel) -> Traits {
        Traits {
            steel: steel.key.clone(),
            medium: stages(plan).first().map_or(Medium::StillAir, |s| s.medium),
            hand: self.hand.clone(),
        }
    }

    /// How they move its line.
    #[must_use]
    pub fn line_moved(&self, of: &Traits) -> Moved {
        let (line, unseen) = (self.line.shift(of), self.unseen.shift(of));
        Moved {
            by_mm: line.by,
            deviation_mm: line.deviation,
            wider: self.clarity.shift(of).by.exp(),
            unseen: unseen.by,
            unseen_deviation: unseen.deviation,
        }
    }
}

/// Sag that is left without straightening, mm: half a millimetre in 100 mm of blade, at least 0.3 mm.
#[must_use]
pub fn tolerance_mm(length_mm: f64) -> f64 {
    (0.005 * length_mm).max(0.3)
}

/// Mass of a blade on its grid, kg.
fn mass_kg(grid: &Grid) -> f64 {
    let cell = (grid.step_mm * 1e-3).powi(2);
    DENSITY * cell * grid.thickness_mm.iter().map(|t| t * 1e-3).sum::<f64>()
}

/// The even quench, and the same with one face cooled a tenth more, side by side on two cores.
pub(crate) fn evenly_and_not(
    setup: Setup<'_>,
    stop: Option<&AtomicBool>,
) -> Result<(Quenched, Quenched), Stopped> {
    let uneven = Setup {
        faces: [0.95, 1.05],
        // Sag is smooth: a coarser grid tells it as well, and the two end together.
        step_mm: (2.0 * setup.step_mm).max(3.0),
        ..setup
    };
    std::thread::scope(|s| {
        let other = s.spawn(move || quench(uneven, stop));
        let even = quench(setup, stop)?;
        let uneven = other.join().map_err(|_| Stopped)??;
        Ok((even, uneven))
    })
}

/// What speaks for a crack in this quench.
#[must_use]
pub fn causes(work: &Work, plan: &Plan, steel: &Steel, heat: &Heat, q: &Quenched) -> Causes {
    let (blade, d, stages) = (work.blade(), &heat.dissolved, stages(plan));
    let stage = stage_at(&stages, q.half_start_s);
    let severity = stage.map_or(0.0, |s| {
        let film = Film::new(s.medium, s.bath_c, s.agitation.unwrap_or(Agitation::Moved));
        (film.at(MARTENSITE_FORMS_C) / SLOW_OIL_H).ln().max(0.0)
    });
    let water = stages.iter().any(|s| s.medium.is_water());
    let milder = matches!(steel.hardening, Hardening::Oil | Hardening::Air)
        && !steel.water_then_oil
        && !steel.media.iter().any(|m| m.is_water());
    Causes {
        carbon: ((d.composition.carbon - 0.55) / 0.1).max(0.0) * d.austenite,
        low_start: ((220.0 - d.martensite_start_c) / 10.0).clamp(0.0, 20.0) * d.austenite,
        severity: severity * d.austenite,
        wrong_medium: f64::from(u8::from(water && milder)) * d.austenite,
        section: ((blade.spine_mm / blade.edge_mm).ln() - 1.5).clamp(0.0, 3.0),
        raisers: f64::from(work.raisers.min(3)),
        overheated: ((heat.temperature.value() - steel.austenitize.high.value()) / 10.0)
            .clamp(0.0, 20.0),
        untempered: (1.0 + hours_untempered(plan)).ln() * d.austenite,
    }
}

/// Hours between the quench and the first temper: as they were lived, or by the plan what sub-zero waits and
/// holds, and a day where no temper follows at all.
#[must_use]
pub fn hours_untempered(plan: &Plan) -> f64 {
    if let Some(lived) = plan.untempered() {
        return lived.hours();
    }
    let after = plan.last_quench().map_or(0, |i| i + 1);
    let mut hours = 0.0;
    for step in &plan.steps()[after..] {
        match step {
            Step::Temper { .. } => return hours,
            Step::SubZero { hold_s, wait_s, .. } => hours += hold_s.hours() + wait_s.hours(),
            _ => {}
        }
    }
    24.0
}

/// Where severity is judged: around the martensite start of blade steel, °C.
const MARTENSITE_FORMS_C: f64 = 240.0;
/// Heat transfer of slow oil there, W/m²K.
const SLOW_OIL_H: f64 = 280.0;

/// The stage that is going on at a time.
fn stage_at(stages: &[Stage], time: f64) -> Option<&Stage> {
    let mut ends = 0.0;
    stages
        .iter()
        .find(|s| {
            ends += s.for_s.map_or(f64::INFINITY, |t| t.value());
            time <= ends
        })
        .or(stages.last())
}

/// Where the hardening heat starts from, °C: the preheat before it, or room temperature.
fn preheated_c(plan: &Plan) -> f64 {
    let before = &plan.real_steps()[..plan.last_quench().unwrap_or(0)];
    let found = before.iter().rev().find_map(|s| match s {
        Step::Preheat { temperature_c, .. } => Some(temperature_c.value()),
        Step::Normalize { .. } | Step::Quench { .. } => Some(20.0),
        _ => None,
    });
    found.unwrap_or(20.0)
}

/// When edge, spine and thickest part are at heat, and the soak to advise.
fn soak(work: &Work, plan: &Plan, steel: &Steel, heat: &Heat, grid: &Grid) -> Soak {
    let blade = work.blade();
    let load = Load {
        furnace: work.furnace,
        set_c: heat.temperature.value(),
        start_c: preheated_c(plan),
        mass_kg: mass_kg(grid),
        blades: work.together,
    };
    let at = |mm: f64| time_to_heat_s(load, steel.ac1_c, mm);
    let thickest = grid.thickness_mm.iter().copied().fold(0.0, f64::max);
    let above = heat.temperature.value() - steel.austenitize.nominal.value();
    let dissolving = 3.0 * heat.structure.time_constant_s(above);
    let soak_s = dissolving.max(0.5 * steel.soak.value()).clamp(60.0, 5400.0);
    Soak {
        edge_s: at(blade.edge_mm),
        spine_s: at(blade.spine_mm),
        ready_after_s: at(thickest.max(blade.spine_mm)),
        soak_s: (soak_s / 30.0).ceil() * 30.0,
    }
}

/// Computes the outcomes of a plan with cells of `step_mm`, on two cores.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn outcomes(
    work: &Work,
    plan: &Plan,
    steel: &Steel,
    habits: &Habits,
    step_mm: f64,
    stop: Option<&AtomicBool>,
) -> Result<(Outcomes, Quenched), Stopped> {
    let heat = Heat::of(plan, steel, 0.0);
    let stages = stages(plan);
    let setup = heat.whole(&work.form, &work.clay, &stages, step_mm);
    let (even, uneven) = evenly_and_not(setup, stop)?;
    let found = Assembly {
        work,
        plan,
        steel,
        habits,
        heat: &heat,
        even: &even,
        simulated: Simulated::of(work, plan, steel, &heat, (&even, &uneven)),
        traits: habits.traits(plan, steel),
        reasons: Vec::new(),
    };
    Ok((found.outcomes(), even))
}

/// What the outcomes of one quench are put together from.
struct Assembly<'a> {
    work: &'a Work,
    plan: &'a Plan,
    steel: &'a Steel,
    habits: &'a Habits,
    heat: &'a Heat,
    even: &'a Quenched,
    simulated: Simulated,
    traits: Traits,
    reasons: Vec<Reason>,
}

/// Below this share of austenite nothing hardens.
const NEVER_HOT: f64 = 0.05;
/// A band narrower than this is a crisp line, mm.
const CRISP_MM: f64 = 5.0;
/// Clay dries in this at [`CLAY_DRY_C`], s.
const CLAY_DRY_S: f64 = 3600.0;
/// Where clay is dried, °C.
const CLAY_DRY_C: f64 = 200.0;

impl Assembly<'_> {
    fn say(&mut self, about: About, why: Why) {
        self.reasons.push(Reason::plain(about, why));
    }

    fn say_from_records(&mut self, about: About, why: Why) {
        self.reasons.push(Reason::plain(about, why).from_records());
    }

    fn hamon(&mut self) -> Hamon {
        let moved = self.habits.line_moved(&self.traits);
        let found = if self.heat.dissolved.austenite < NEVER_HOT {
            let ac1_c = self.steel.ac1_c;
            Hamon::None {
                none: NoLine::NeverHot { ac1_c },
            }
        } else {
            line_of(&self.simulated.columns, moved)
        };
        match &found {
            Hamon::Line(l) => {
                let why = Why::LineAt {
                    height_mm: l.height_mm,
                    band_mm: l.band_mm,
                    crisp: l.band_mm < CRISP_MM,
                };
                self.say(About::Hamon, why);
                let by_mm = moved.by_mm;
                if l.unseen {
                    self.say_from_records(About::Hamon, Why::LineFromRecords {});
                } else if by_mm.abs() >= 0.3 {
                    self.say_from_records(About::Hamon, Why::LinesMoved { by_mm });
                }
            }
            Hamon::None { none } => self.say(About::Hamon, Why::NoLine { none: *none }),
        }
        if !self.work.clay.is_bare() {
            let why = Why::ClayMustHold {
                dry_c: CLAY_DRY_C,
                dry_s: CLAY_DRY_S,
            };
            self.say(About::Hamon, why);
        }
        found
    }

    /// Hardened share of the middle of the blade, percent.
    fn middle(&mut self) -> f64 {
        let x = STRIP_AT * self.work.blade().length_mm;
        let section = self.work.form.outline().section(x);
        let percent = section
            .and_then(|(edge, spine)| self.even.cell_at(x, 0.5 * (edge + spine)))
            .map_or(0.0, |cell| 100.0 * self.even.hardened(cell));
        let why = Why::MiddleHardens {
            percent,
            grain_astm: grain::astm_number(self.heat.grain_um * 1e-3),
            carbon_percent: self.heat.dissolved.composition.carbon,
        };
        self.say(About::Middle, why);
        percent
    }

    fn bend(&mut self) -> BendOutcome {
        let sori_mm = self.simulated.sori_mm;
        let side = self.simulated.side_per_ten_percent_mm;
        let unevenness_percent = UNEVENNESS_PERCENT * self.habits.sag.shift(&self.traits).by.exp();
        let tolerance = tolerance_mm(self.work.blade().length_mm);
        // What is known to be uneven: clay, and bevels that differ.
        let bevels = 0.1 * side * self.work.form.unevenness_percent();
        let own = self.simulated.side_mm + bevels;
        let spread = side * unevenness_percent / 10.0 + 0.02;
        let over = upper_tail((tolerance - own) / spread) + upper_tail((tolerance + own) / spread);
        let why = if sori_mm.abs() < 0.1 {
            Why::StaysStraight {}
        } else {
            Why::Curves { sori_mm }
        };
        self.say(About::Bend, why);
        let why = Why::UnevenCooling {
            per_tenth_mm: side,
            unevenness_percent,
        };
        self.say(About::Bend, why);
        if !self.work.clay.is_even() {
            let side_mm = (own - bevels).abs();
            self.say(About::Bend, Why::UnevenClay { side_mm });
        }
        if bevels.abs() >= 0.02 {
            let side_mm = bevels.abs();
            self.say(About::Bend, Why::UnevenBevels { side_mm });
        }
        BendOutcome {
            sori_mm,
            side_mm_per_10_percent: side,
            // Below one in a million the tail says nothing.
            side_over_tolerance_probability: if over < 1e-6 { 0.0 } else { over.min(1.0) },
            tolerance_mm: tolerance,
            side_ninety_mm: own.abs() + NINETY * spread,
        }
    }

    fn crack(&mut self) -> Risk {
        let (causes, model) = (self.simulated.crack_causes, &self.habits.crack);
        let risk = if self.heat.dissolved.austenite < NEVER_HOT {
            Risk {
                probability: 0.0,
                low: 0.0,
                high: 0.01,
            }
        } else {
            model.risk(&causes)
        };
        for (cause, odds) in model.reasons(&causes).into_iter().take(3) {
            self.say(About::Crack, Why::CrackCause { cause, odds });
        }
        let why = match model.outcomes {
            0 => Why::CracksByHandbook {},
            blades => Why::CracksByRecords { blades },
        };
        self.say(About::Crack, why);
        risk
    }

    /// ASTM grain size number with its standard deviation, and how much of it is learned.
    fn grain(&mut self) -> (f64, Shift) {
        let finer = self.habits.grain.shift(&self.traits);
        if finer.by.abs() >= 0.1 {
            self.say_from_records(About::Grain, Why::CouponsFiner { by_astm: finer.by });
        }
        let why = Why::GrainAtQuench {
            grain_um: self.heat.grain_um,
            finest_um: grain::FINEST_UM,
        };
        self.say(About::Grain, why);
        (self.simulated.grain_astm + finer.by, finer)
    }

    /// Depth of skin that loses carbon, mm.
    fn skin(&mut self) -> f64 {
        let steps = self.plan.real_steps();
        let depth_mm = decarburization::depth_mm(steps, self.work.protection, 0.0);
        let why = Why::SkinLost {
            depth_mm,
            edge_gone: 2.0 * depth_mm > self.work.blade().edge_mm,
        };
        self.say(About::Decarburization, why);
        depth_mm
    }

    fn soak(&mut self) -> Soak {
        let soak = soak(self.work, self.plan, self.steel, self.heat, &self.even.grid);
        let furnace = self.work.furnace;
        self.say(About::Soak, Why::SoakFrom { furnace, soak });
        soak
    }

    fn outcomes(mut self) -> Outcomes {
        let line = self.hamon();
        let middle = self.middle();
        // Widest where half of it hardens.
        let doubt = 4.0 + 0.36 * (middle * (100.0 - middle)).max(0.0).sqrt();
        let bend = self.bend();
        let risk = self.crack();
        let (number, finer) = self.grain();
        let skin = self.skin();
        let soak = self.soak();
        let own_sori = 0.35 * bend.sori_mm.abs() + 0.25;
        let mut found = Outcomes {
            ranges: Ranges {
                grain_astm: Interval::normal(number, finer.deviation, (0.0, 14.0)),
                decarburization_mm: Interval::normal(skin, 0.3 * skin, (0.0, 10.0)),
                martensite_percent_middle: Interval::normal(middle, doubt / NINETY, (0.0, 100.0)),
                sori_mm: Interval::normal(bend.sori_mm, own_sori / NINETY, (-500.0, 500.0)),
                hamon_mm: line.line().map(|l| {
                    let width = l.points.first().map_or(0.0, |p| p.high_mm - p.height_mm);
                    Interval::normal(l.height_mm, width / NINETY, (0.0, 400.0))
                }),
            },
            hamon: line,
            martensite_percent_middle: middle,
            bend,
            crack: risk,
            crack_causes: self.simulated.crack_causes,
            grain_astm: number,
            grain_learned: finer.by,
            decarburization_mm: skin,
            soak,
            coarsened_to_mm: self.even.grid.coarsened.then_some(self.even.grid.step_mm),
            outcome_reasons: self.reasons,
            checks: Vec::new(),
            clay: self.work.clay.lay(&self.even.grid),
        };
        found.checks = checked(&self.work.checks, self.work, &found, &self.habits.crack);
        found
    }
}

/// Seconds in water, before oil, that put the line as the records correct it `wanted_mm` above the edge: 0.2 to 12 s, to a tenth.
/// None when no time does.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn seconds_in_water(
    work: &Work,
    plan: &Plan,
    steel: &Steel,
    habits: &Habits,
    wanted_mm: f64,
    stop: Option<&AtomicBool>,
) -> Result<Option<f64>, Stopped> {
    let heat = Heat::of(plan, steel, 0.0);
    let traits = Traits {
        medium: Medium::Water,
        ..habits.traits(plan, steel)
    };
    let moved = habits.line_moved(&traits);
    let height = |seconds: f64| {
        let stages = [
            Stage {
                for_s: Some(crate::units::Seconds::clamped(seconds)),
                ..Stage::of(Medium::Water)
            },
            Stage::of(Medium::FastOil),
        ];
        let setup = Setup {
            bend: false,
            ..heat.whole(&work.form, &work.clay, &stages, STEP_MM)
        };
        let q = quench(setup, stop)?;
        let columns = columns(&q, work.blade().length_mm);
        Ok(match line_of(&columns, moved) {
            Hamon::Line(l) => l.height_mm,
            // Soft throughout lies below every line, hardened throughout above.
            Hamon::None { .. } if q.mean_hardened() < 0.5 => 0.0,
            Hamon::None { .. } => f64::INFINITY,
        })
    };
    let (mut low, mut high) = (0.2, 12.0);
    if height(low)? > wanted_mm || height(high)? < wanted_mm {
        return Ok(None);
    }
    for _ in 0..7 {
        let middle = 0.5 * (low + high);
        if height(middle)? < wanted_mm {
            low = middle;
        } else {
            high = middle;
        }
    }
    Ok(Some((5.0 * (low + high)).round() / 10.0))
}

/// Clay that brings the line nearest to a wanted one.
#[derive(Debug, Clone, PartialEq)]
pub struct ClayFor {
    /// The clay, the same on both faces: where it begins above the edge, along the blade (x, mm; mm).
    pub border: Vec<(f64, f64)>,
    /// Its thickness, mm.
    pub thickness_mm: f64,
    /// The clay itself.
    pub clay: Clay,
    /// Root mean square distance of the simulated line from the wanted one, mm.
    pub off_mm: f64,
}

/// What a smith can lay on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Brush {
    /// Thinnest and thickest clay, mm.
    pub thickness_mm: (f64, f64),
    /// Width of the brush, mm: the border cannot change faster along the blade.
    pub width_mm: f64,
}

/// Finds clay for a wanted line, given as height above the edge by x (mm): the border starts at the line
/// and is moved by what the line, as the records correct it, misses, a brush width at a time, for three thicknesses.
/// None when no clay gives a line.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn clay_for(
    work: &Work,
    plan: &Plan,
    steel: &Steel,
    habits: &Habits,
    wanted: &dyn Fn(f64) -> f64,
    brush: Brush,
    stop: Option<&AtomicBool>,
) -> Result<Option<ClayFor>, Stopped> {
    let heat = Heat::of(plan, steel, 0.0);
    let (thin, thick) = brush.thickness_mm;
    let step = brush.width_mm.clamp(2.0, 20.0);
    let length = work.blade().length_mm;
    let count = (length / step).ceil().max(2.0) as usize;
    let at = |i: usize| (i as f64 + 0.5) * length / count as f64;
    let baths = stages(plan);
    let moved = habits.line_moved(&habits.traits(plan, steel));
    let mut best: Option<ClayFor> = None;
    for thickness_mm in [thin, (thin * thick).max(0.0).sqrt(), thick] {
        let mut border: Vec<f64> = (0..count).map(|i| wanted(at(i)) + 1.0).collect();
        for _ in 0..5 {
            let heights: Vec<(f64, f64)> = border
                .iter()
                .enumerate()
                .map(|(i, b)| (at(i), *b))
                .collect();
            let clay = Clay::above(&work.form, &heights, thickness_mm);
            let setup = Setup {
                bend: false,
                ..heat.whole(&work.form, &clay, &baths, STEP_MM)
            };
            let q = quench(setup, stop)?;
            let Hamon::Line(line) = line_of(&columns(&q, length), moved) else {
                break;
            };
            let miss = |x: f64| {
                let near = line
                    .points
                    .iter()
                    .filter(|p| (p.x_mm - x).abs() <= 0.5 * step.max(5.0));
                let (n, sum) = near.fold((0.0, 0.0), |(n, s), p| {
                    (n + 1.0, s + wanted(p.x_mm) - p.height_mm)
                });
                if n > 0.0 { sum / n } else { 0.0 }
            };
            let off = line
                .points
                .iter()
                .map(|p| (p.height_mm - wanted(p.x_mm)).powi(2))
                .sum::<f64>();
            let off_mm = (off / line.points.len() as f64).sqrt();
            if best.as_ref().is_none_or(|b| off_mm < b.off_mm) {
                best = Some(ClayFor {
                    border: heights,
                    thickness_mm,
                    clay,
                    off_mm,
                });
            }
            for (i, b) in border.iter_mut().enumerate() {
                *b = (*b + 0.9 * miss(at(i))).clamp(0.0, 300.0);
            }
        }
    }
    Ok(best)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learn::habit::Seen;
    use crate::physics::tests::{blade, nominal, plan};
    use rstest::rstest;

    fn quenched_in(steel: &str, medium: &str) -> (Plan, &'static Steel) {
        let steel = Steel::built_in(steel).unwrap();
        (nominal(steel, medium), steel)
    }

    fn run(steel: &str, medium: &str, work: &Work) -> Outcomes {
        let (plan, steel) = quenched_in(steel, medium);
        outcomes(work, &plan, steel, &Habits::default(), 2.0, None)
            .unwrap()
            .0
    }

    #[test]
    fn the_preview_is_near_the_full_simulation() {
        let (plan, steel) = quenched_in("w2", "fast_oil");
        let mut work = Work::plain(&blade());
        work.clay = Clay::band(14.0, 2.0);
        let at = |step_mm| {
            let (found, _) =
                outcomes(&work, &plan, steel, &Habits::default(), step_mm, None).unwrap();
            found.hamon.line().unwrap().height_mm
        };
        assert!((at(2.0) - at(1.0)).abs() < 0.8, "{} {}", at(2.0), at(1.0));
    }

    #[test]
    fn every_outcome_has_its_interval_and_its_reasons() {
        let got = run("w2", "fast_oil", &Work::plain(&blade()));
        assert!(got.hamon.line().is_some(), "{:?}", got.hamon);
        assert!(
            got.ranges
                .hamon_mm
                .unwrap()
                .holds(got.hamon.line().unwrap().height_mm)
        );
        assert!(got.ranges.grain_astm.holds(got.grain_astm));
        assert!(got.crack.low < got.crack.probability && got.crack.probability < got.crack.high);
        assert!(got.soak.edge_s < got.soak.ready_after_s && got.soak.soak_s >= 60.0);
        for about in [
            About::Hamon,
            About::Middle,
            About::Bend,
            About::Crack,
            About::Grain,
            About::Decarburization,
            About::Soak,
        ] {
            assert!(
                got.outcome_reasons.iter().any(|r| r.about == about),
                "{about:?}"
            );
        }
    }

    #[rstest]
    #[case("o1", "medium_oil")]
    #[case("5160", "medium_oil")]
    fn an_oil_steel_has_no_line_and_says_why(#[case] steel: &str, #[case] medium: &str) {
        let got = run(steel, medium, &Work::plain(&blade()));
        let Hamon::None { none } = &got.hamon else {
            panic!("{:?}", got.hamon)
        };
        assert!(matches!(none, NoLine::HardensThrough {}), "{none:?}");
        assert!(got.martensite_percent_middle > 95.0);
    }

    #[test]
    fn water_cracks_more_and_scratches_more_still() {
        let plain = Work::plain(&blade());
        let (oil, water) = (run("w2", "fast_oil", &plain), run("w2", "water", &plain));
        assert!(water.crack.probability > 3.0 * oil.crack.probability);
        let rough = Work {
            raisers: 2,
            ..plain
        };
        assert!(run("w2", "water", &rough).crack.probability > 1.5 * water.crack.probability);
    }

    #[test]
    fn waiting_hard_and_untempered_is_a_risk_of_its_own() {
        let after = |steps: &str| {
            let plan = plan(&format!(
                r#"[{{"kind":"austenitize","temperature_c":795,"soak_s":480}},{{"kind":"quench","stages":[{{"medium":"water"}}]}}{steps}]"#
            ));
            let work = Work::plain(&blade());
            let steel = Steel::built_in("w2").unwrap();
            let habits = Habits::default();
            let found = outcomes(&work, &plan, steel, &habits, 3.0, None);
            found.unwrap().0.crack.probability
        };
        let temper = r#",{"kind":"temper","temperature_c":200,"hold_s":7200}"#;
        let cold = r#",{"kind":"sub_zero","temperature_c":-75,"hold_s":7200,"wait_s":36000}"#;
        let (at_once, late, never) = (after(temper), after(&format!("{cold}{temper}")), after(""));
        assert!(at_once < late && late < never, "{at_once} {late} {never}");
    }

    #[test]
    fn a_steadier_hand_bends_less_often() {
        let (plan, steel) = quenched_in("1095", "water");
        let work = Work::plain(&blade());
        let with = |unevenness: f64| {
            let seen = (0..30)
                .map(|b| Seen {
                    blade: uuid::Uuid::from_u128(b),
                    traits: Traits {
                        steel: "1095".to_owned(),
                        medium: Medium::Water,
                        hand: None,
                    },
                    measured: 1.0,
                    residual: (unevenness / UNEVENNESS_PERCENT).ln(),
                    places: 1,
                    at_most: false,
                })
                .collect();
            let habits = Habits {
                sag: Habit::fit(habit::SAG, seen),
                ..Habits::default()
            };
            outcomes(&work, &plan, steel, &habits, 2.0, None)
                .unwrap()
                .0
                .bend
        };
        let (steady, rough) = (with(3.0), with(20.0));
        assert!(steady.side_over_tolerance_probability <= rough.side_over_tolerance_probability);
        assert!(steady.side_ninety_mm < rough.side_ninety_mm);
        assert_eq!(steady.sori_mm, rough.sori_mm);
    }

    #[test]
    fn below_ac1_nothing_hardens_and_it_says_so() {
        let plan = plan(
            r#"[{"kind":"austenitize","temperature_c":690,"soak_s":300},{"kind":"quench","stages":[{"medium":"water"}]}]"#,
        );
        let steel = Steel::built_in("w2").unwrap();
        let work = Work::plain(&blade());
        let got = outcomes(&work, &plan, steel, &Habits::default(), 3.0, None)
            .unwrap()
            .0;
        let Hamon::None { none } = &got.hamon else {
            panic!()
        };
        assert!(matches!(none, NoLine::NeverHot { .. }), "{none:?}");
        assert!(got.martensite_percent_middle < 1.0 && got.crack.probability < 0.001);
    }

    #[test]
    fn the_water_time_it_advises_puts_the_line_there() {
        let (plan, steel) = quenched_in("w2", "fast_oil");
        let thick = crate::blade::Blade {
            spine_mm: 5.0,
            edge_mm: 0.6,
            ..blade()
        };
        let work = Work::plain(&thick);
        let seconds = seconds_in_water(&work, &plan, steel, &Habits::default(), 16.0, None)
            .unwrap()
            .unwrap();
        assert!((0.5..6.0).contains(&seconds), "{seconds}");
        assert_eq!(
            seconds_in_water(&work, &plan, steel, &Habits::default(), 29.5, None).unwrap(),
            None
        );
    }

    #[test]
    fn the_clay_it_finds_gives_the_wanted_line() {
        let (plan, steel) = quenched_in("1095", "water");
        let thick = crate::blade::Blade {
            spine_mm: 5.5,
            edge_mm: 0.6,
            ..blade()
        };
        let work = Work::plain(&thick);
        let wanted = |x: f64| 11.0 + 2.0 * (x / 40.0).sin();
        let brush = Brush {
            thickness_mm: (0.8, 3.0),
            width_mm: 8.0,
        };
        let found = clay_for(
            &work,
            &plan,
            steel,
            &Habits::default(),
            &wanted,
            brush,
            None,
        )
        .unwrap()
        .unwrap();
        assert!(
            found.off_mm < 1.5,
            "{} mm off with {} mm",
            found.off_mm,
            found.thickness_mm
        );
        assert!(found.border.len() > 10);
    }
}
