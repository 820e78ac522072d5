//! What the plan of a blade asks of a day: each step as activities, with lengths from the engine, where they may be done, what
//! hands they take, and what a departure costs by the engine and the shop's records for this very blade.

use crate::advice::success::inside;
use crate::learning::Model;
use crate::learning::crack::CrackModel;
use crate::material::medium::Medium;
use crate::material::properties::{
    DENSITY, MARTENSITE_HEAT, heat_content, radiation, specific_heat,
};
use crate::material::steel::Steel;
use crate::planning::day::{Activity, Blade, Heat, Preheat, Quench, Risk, Span};
use crate::prediction::subject::Subject;
use crate::prediction::{Hardness, StationNames, predict};
use crate::process::furnace::{Furnace, Load, time_to_heat_s};
use crate::process::heat_transfer::EMISSIVITY;
use crate::process::manner::Bed;
use crate::process::plan::{KILN_C, Plan};
use crate::process::step::{Stage, Step};
use crate::process::workpiece::Workpiece;
use crate::quantity::units::{Celsius, Kelvins, Quantity, Seconds};
use crate::simulation::crack::Causes;
use crate::simulation::decarburization;
use crate::simulation::grain;
use serde::{Deserialize, Serialize};

/// Where things can be done, by name.
#[derive(Debug, Clone, Default, PartialEq, Serialize)]
pub struct Places {
    /// Kilns and forges.
    pub fires: Vec<String>,
    /// Tempering ovens, and kilns that temper.
    pub ovens: Vec<String>,
    /// What blades are quenched in or between.
    pub tanks: Vec<(String, Medium)>,
    /// Cold boxes.
    pub cold: Vec<String>,
    /// Benches.
    pub benches: Vec<String>,
}

/// What there is no place for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Need {
    /// A fire.
    Fire,
    /// An oven.
    Oven,
    /// A bath of this medium.
    Tank(Medium),
    /// A cold box.
    Cold,
    /// A bench.
    Bench,
}

/// A step of a plan that the shop has no place for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct NoPlace {
    /// The step, from 0.
    pub step: usize,
    /// What it needs.
    pub need: Need,
}

/// What of a step an activity is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DayPhase))]
pub enum Phase {
    /// A heat in a fire, with the even heat before it.
    Heat,
    /// Cooling after a heat or a temper.
    Cooling,
    /// Work by hand.
    Bench,
    /// Clay that dries.
    Drying,
    /// A bath.
    Bath,
    /// A step of its own that lets it cool.
    Cool,
    /// In the cold.
    Cold,
    /// A round of a temper.
    Temper,
}

/// Where an activity comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Origin {
    /// Position of its step among those that were given.
    pub step: usize,
    /// Which round of a temper or which bath of a quench, from 0.
    pub round: usize,
    /// What of it.
    pub phase: Phase,
}

/// A blade on a day, and where each of its activities comes from.
#[derive(Debug, Clone, PartialEq)]
pub struct PlannedBlade {
    /// The blade.
    pub blade: Blade,
    /// By activity.
    pub origins: Vec<Origin>,
}

/// A blade that is to be on a day.
#[derive(Debug, Clone, Copy)]
pub struct Wanted<'a> {
    /// What it is called.
    pub id: &'a str,
    /// What is to be done.
    pub plan: &'a Plan,
    /// Its steel.
    pub steel: &'a Steel,
    /// The blade and what is around it.
    pub work: &'a Workpiece,
    /// Wanted hardness, HRC.
    pub target: Option<(f64, f64)>,
    /// What was learned of the shop.
    pub model: &'a Model,
    /// What was learned of cracks.
    pub crack: &'a CrackModel,
    /// What speaks for one in its quench.
    pub causes: &'a Causes,
    /// From the fire until it is cold in its baths.
    pub cold_after: Seconds,
    /// Longest that it may lie hard and untempered in this shop.
    pub temper_within: Seconds,
    /// Not before, s.
    pub release_s: i64,
    /// Wanted by, s.
    pub due_s: Option<i64>,
}

/// Into a fire or out of it, hands of workshop experience, s.
const IN_S: i64 = 60;
const OUT_S: i64 = 60;
/// Work at the bench, s: workshop experience, until a shop's own is known.
const COAT_S: i64 = 300;
const CLAY_S: i64 = 900;
const STRAIGHTEN_S: i64 = 120;
const STAMP_S: i64 = 60;
const LOOK_S: i64 = 60;
const TORCH_S: i64 = 180;
/// Out of the bath it can be straightened for so long, s.
const STRAIGHTEN_WITHIN_S: i64 = 60;
/// Into the cold within the hour, s.
const COLD_WITHIN_S: i64 = 3600;
/// Red is gone below this, and it can be taken in the hand below that, °C.
const BLACK_C: f64 = 500.0;
const HAND_C: f64 = 40.0;
/// A fire that is shut down falls by this until it is opened at [`BLACK_C`], °C/h.
const SHUT_C_PER_H: f64 = 25.0;
/// In ash or vermiculite it lies overnight, s.
const BED_S: i64 = 8 * 3600;
/// Convection of still air, W/m²K, and the room, °C.
const STILL_AIR: f64 = 9.0;
const ROOM_C: f64 = 20.0;
/// A heat may be moved by so much, and what that costs is asked at this distance, °C.
const MOVED_C: f64 = 15.0;
const ASKED_C: f64 = 10.0;
/// A bath may be cooler and warmer by this, °C.
const BATH_C: (f64, f64) = (10.0, 20.0);
/// What a longer stay in the fire may do: coarsen the grain to this number, or by that where it is coarser already, and take
/// carbon from so much more skin, mm.
const FINE_ASTM: f64 = 8.0;
const COARSER_ASTM: f64 = 0.3;
const DEEPER_MM: f64 = 0.02;
/// Longest stay that is asked of a blade, and the steps that it is looked at in, s. Longer may do no harm by grain and skin,
/// but no smith leaves a blade soaking for the order's sake.
const STAYS_S: (i64, i64) = (1200, 60);
/// A temper may lie so much longer, s.
const TEMPER_EXTRA_S: i64 = 3600;
/// What a longer hold costs is asked with so much more, s.
const LONGER_S: f64 = 600.0;

/// How long a section takes in still air from one temperature to another, s.
#[must_use]
pub fn in_air_s(from_c: f64, to_c: f64, thickness_mm: f64) -> f64 {
    let (mut t, mut s) = (from_c, 0.0);
    let to_c = to_c.max(ROOM_C + 2.0);
    while t > to_c && s < 86_400.0 {
        let film = radiation(EMISSIVITY, t, ROOM_C) + STILL_AIR;
        let per_s =
            2.0 * film * (t - ROOM_C) / (DENSITY * specific_heat(t) * 1e-3 * thickness_mm.max(0.5));
        let step = (2.0 / per_s.max(1e-6)).min(30.0);
        t -= per_s * step;
        s += step;
    }
    s
}

impl PlannedBlade {
    /// A blade with its plan, on a grid of so many seconds.
    ///
    /// # Errors
    /// [`NoPlace`] for the first step that nothing in the shop does.
    pub fn of(wanted: &Wanted<'_>, places: &Places, grid_s: i64) -> Result<Self, NoPlace> {
        let mut asked = Asked {
            wanted,
            places,
            grid_s,
            activities: Vec::new(),
            origins: Vec::new(),
            spans: Vec::new(),
            quenched: None,
            tempered: false,
        };
        for step in 0..wanted.plan.steps().len() {
            asked.step(step)?;
        }
        let form = wanted.work.blade();
        let blade = Blade {
            id: wanted.id.to_owned(),
            steel: wanted.steel.name.clone(),
            length_mm: form.length_mm,
            release_s: wanted.release_s,
            due_s: wanted.due_s,
            weight: 1,
            activities: asked.activities,
            spans: asked.spans,
        };
        Ok(Self {
            blade,
            origins: asked.origins,
        })
    }
}

struct Asked<'a> {
    wanted: &'a Wanted<'a>,
    places: &'a Places,
    grid_s: i64,
    activities: Vec<Activity>,
    origins: Vec<Origin>,
    spans: Vec<Span>,
    /// The end of its last quench so far.
    quenched: Option<usize>,
    tempered: bool,
}

/// How long an activity takes at least, s.
const fn least_s(of: &Activity) -> i64 {
    of.in_s + of.heat_s + of.hold_s + of.out_s
}

/// Nothing but its kind and how long.
fn lasting(kind: &str, hold_s: i64) -> Activity {
    Activity {
        kind: kind.to_owned(),
        at: Vec::new(),
        in_s: 0,
        heat_s: 0,
        hold_s,
        out_s: 0,
        attention: 0,
        temp: None,
        pre: None,
        leave_c: None,
        extra_s: 0,
        extra_ppm_per_min: 0.0,
        quench: None,
    }
}

/// What follows a heat or a round.
const fn after(step: usize, round: usize) -> Origin {
    Origin {
        step,
        round,
        phase: Phase::Cooling,
    }
}

fn found(all: Vec<String>, step: usize, need: Need) -> Result<Vec<String>, NoPlace> {
    if all.is_empty() {
        Err(NoPlace { step, need })
    } else {
        Ok(all)
    }
}

impl Asked<'_> {
    fn up(&self, seconds: f64) -> i64 {
        (seconds / self.grid_s as f64).ceil() as i64 * self.grid_s
    }

    fn add(&mut self, activity: Activity, step: usize, phase: Phase, round: usize) {
        self.activities.push(activity);
        self.origins.push(Origin { step, round, phase });
    }

    /// Those that a plan names, where it names one of them.
    fn named(&self, all: &[String], step: usize) -> Vec<String> {
        let named = self.wanted.plan.steps()[step].station_id();
        let named = named.map(|id| id.to_string());
        match named.filter(|n| all.contains(n)) {
            Some(name) => vec![name],
            None => all.to_vec(),
        }
    }

    fn fires(&self, step: usize) -> Result<Vec<String>, NoPlace> {
        found(self.named(&self.places.fires, step), step, Need::Fire)
    }

    fn ovens(&self, step: usize) -> Result<Vec<String>, NoPlace> {
        found(self.named(&self.places.ovens, step), step, Need::Oven)
    }

    fn thickness_mm(&self) -> f64 {
        self.wanted.work.blade().spine_mm
    }

    /// Until the spine is at heat, s.
    fn heat_s(&self, furnace: Furnace, set_c: f64, start_c: f64) -> i64 {
        let load = Load {
            furnace,
            set_c,
            start_c,
            mass_kg: self.wanted.work.mass_kg(),
            blades: 1,
        };
        self.up(time_to_heat_s(
            load,
            self.wanted.steel.ac1_c,
            self.thickness_mm(),
        ))
    }

    fn furnace(&self) -> Furnace {
        self.wanted.work.furnace
    }

    fn bench(&mut self, step: usize, kind: &str, for_s: i64) -> Result<(), NoPlace> {
        let at = found(self.places.benches.clone(), step, Need::Bench)?;
        let work = Activity {
            at,
            attention: 2,
            ..lasting(kind, self.up(for_s as f64))
        };
        self.add(work, step, Phase::Bench, 0);
        Ok(())
    }

    /// In still air from one temperature to another.
    fn cools(&mut self, from_c: f64, to_c: f64, of: Origin) {
        let hold_s = self.up(in_air_s(from_c, to_c, self.thickness_mm()));
        self.add(lasting("cool", hold_s), of.step, of.phase, of.round);
    }

    fn step(&mut self, i: usize) -> Result<(), NoPlace> {
        let steps = self.wanted.plan.steps();
        let kind: &str = steps[i].kind().into();
        match &steps[i] {
            Step::Normalize {
                temperature_c,
                hold_s,
                ..
            }
            | Step::Refine {
                temperature_c,
                hold_s,
                ..
            }
            | Step::StressRelief {
                temperature_c,
                hold_s,
                ..
            } => {
                self.heat(i, kind, *temperature_c, *hold_s)?;
                self.cools(
                    temperature_c.value(),
                    BLACK_C.min(temperature_c.value() - 50.0),
                    after(i, 0),
                );
            }
            Step::Anneal {
                temperature_c,
                hold_s,
                bed,
                ..
            } => {
                self.heat(i, kind, *temperature_c, *hold_s)?;
                match bed {
                    None | Some(Bed::Furnace) => {
                        let falls_c = (temperature_c.value() - BLACK_C).max(0.0);
                        let shut_s = self.up(3600.0 * falls_c / SHUT_C_PER_H);
                        if let Some(heat) = self.activities.last_mut() {
                            heat.hold_s += shut_s;
                            heat.leave_c = Some(BLACK_C.min(temperature_c.value()));
                        }
                    }
                    Some(_) => {
                        let lies = lasting("cool", self.up(BED_S as f64));
                        self.add(lies, i, Phase::Cooling, 0);
                    }
                }
            }
            // The even heat before the hardening heat is held in the same fire.
            Step::Preheat { .. } if matches!(steps.get(i + 1), Some(Step::Austenitize { .. })) => {}
            Step::Preheat {
                temperature_c,
                hold_s,
                ..
            } => self.heat(i, kind, *temperature_c, *hold_s)?,
            Step::Austenitize {
                temperature_c,
                soak_s,
                ..
            } => self.austenitize(i, *temperature_c, *soak_s)?,
            Step::Quench { stages } => self.quench(i, stages)?,
            Step::Coat {} | Step::Pouch {} => self.bench(i, kind, COAT_S)?,
            Step::Clay {
                temperature_c,
                hold_s,
            } => {
                self.bench(i, kind, CLAY_S)?;
                let dry_s = self.up(hold_s.value());
                if temperature_c.value() <= HAND_C {
                    self.add(lasting("dry", dry_s), i, Phase::Drying, 0);
                } else {
                    let at = self.ovens(i)?;
                    let dry = Activity {
                        at,
                        in_s: IN_S,
                        out_s: OUT_S,
                        extra_s: TEMPER_EXTRA_S,
                        temp: Some(free(*temperature_c)),
                        ..lasting("dry", dry_s)
                    };
                    self.add(dry, i, Phase::Drying, 0);
                }
            }
            Step::Straighten {} => {
                self.bench(i, kind, STRAIGHTEN_S)?;
                let follows = self.activities.len().checked_sub(2);
                if follows.is_some() && follows == self.quenched {
                    self.tie(STRAIGHTEN_WITHIN_S, None);
                }
            }
            Step::Cool {
                temperature_c,
                hold_s,
            } => {
                // From the bath it is nearly as cold as the bath; after a heat it was cooled already.
                let own = Origin {
                    step: i,
                    round: 0,
                    phase: Phase::Cool,
                };
                self.cools(100.0, temperature_c.value(), own);
                let held_s = self.up(hold_s.value());
                if let Some(cool) = self.activities.last_mut() {
                    cool.hold_s += held_s;
                }
            }
            Step::SubZero { hold_s, wait_s, .. } => {
                let at = found(self.places.cold.clone(), i, Need::Cold)?;
                let cold = Activity {
                    at,
                    in_s: IN_S,
                    out_s: OUT_S,
                    extra_s: TEMPER_EXTRA_S,
                    ..lasting(kind, self.up(hold_s.value()))
                };
                self.add(cold, i, Phase::Cold, 0);
                let within_s = self.up(wait_s.value()).max(COLD_WITHIN_S);
                self.tie(within_s, None);
            }
            Step::Temper { .. } => self.temper(i)?,
            Step::TorchTemper { .. } => self.bench(i, kind, TORCH_S)?,
            Step::Stamp {} => self.bench(i, kind, STAMP_S)?,
            Step::Check { .. } => self.bench(i, kind, LOOK_S)?,
        }
        Ok(())
    }

    /// The last activity is tied to the end of the quench.
    fn tie(&mut self, max_s: i64, risk: Option<Risk>) {
        if let Some(from) = self.quenched {
            let to = self.activities.len() - 1;
            self.spans.push(Span {
                from,
                to,
                max_s,
                risk,
            });
        }
    }

    fn heat(&mut self, i: usize, kind: &str, at: Celsius, hold: Seconds) -> Result<(), NoPlace> {
        let activity = Activity {
            at: self.fires(i)?,
            in_s: IN_S,
            heat_s: self.heat_s(self.furnace(), at.value(), ROOM_C),
            out_s: self.grid_s,
            temp: Some(free(at)),
            extra_s: self.up(300.0),
            ..lasting(kind, self.up(hold.value()))
        };
        self.add(activity, i, Phase::Heat, 0);
        Ok(())
    }

    fn austenitize(&mut self, i: usize, at: Celsius, soak: Seconds) -> Result<(), NoPlace> {
        let before = i.checked_sub(1).map(|b| &self.wanted.plan.steps()[b]);
        let even = match before {
            Some(Step::Preheat {
                temperature_c,
                hold_s,
                ..
            }) => Some((temperature_c.value(), hold_s.value())),
            _ => None,
        };
        let furnace = self.furnace();
        let pre = even.map(|(c, hold_s)| Preheat {
            nominal_c: c,
            low_c: c - MOVED_C,
            high_c: c + MOVED_C,
            heat_s: self.heat_s(furnace, c, ROOM_C),
            hold_s: self.up(hold_s),
        });
        let (extra_s, extra_ppm_per_min) = self.bears_s(i, at, soak);
        let window = &self.wanted.steel.austenitize;
        let nominal_c = at.value();
        let (mut low_c, mut high_c) = (window.low.value(), window.high.value());
        if self.wanted.plan.lays_clay() {
            // The line is drawn by the heat: no further than a kiln that was never checked may be off.
            (low_c, high_c) = (nominal_c - KILN_C, nominal_c + KILN_C);
        }
        let activity = Activity {
            at: self.fires(i)?,
            in_s: IN_S,
            heat_s: self.heat_s(furnace, nominal_c, even.map_or(ROOM_C, |e| e.0)),
            temp: Some(Heat {
                nominal_c,
                low_c: low_c.min(nominal_c),
                high_c: high_c.max(nominal_c),
                ppm_per_c_under: self.costs_ppm(|plan, by_c| hotter(plan, i, by_c), -ASKED_C),
                ppm_per_c_over: self.costs_ppm(|plan, by_c| hotter(plan, i, by_c), ASKED_C),
                hrc_per_c: self.hrc_per_c(i),
            }),
            pre,
            extra_s,
            extra_ppm_per_min,
            ..lasting("austenitize", self.up(soak.value()))
        };
        self.add(activity, i, Phase::Heat, 0);
        Ok(())
    }

    /// How much longer it may stay in the fire, s, and what a minute of that costs, ppm: as long as neither grain nor skin is
    /// much worse for it.
    fn bears_s(&self, i: usize, at: Celsius, soak: Seconds) -> (i64, f64) {
        let Wanted {
            plan, steel, work, ..
        } = *self.wanted;
        let stays = |more_s: f64| {
            let mut steps = plan.steps().to_vec();
            if let Step::Austenitize { soak_s, .. } = &mut steps[i] {
                *soak_s = Seconds::clamped(soak.value() + more_s);
            }
            plan.with_steps(steps)
        };
        let state = |plan: &Plan| {
            let steps = plan.real_steps();
            let grain_um = grain::at_quench_um(steps, steel, Kelvins::ZERO);
            let skin_mm = decarburization::depth_mm(steps, work.protection, Kelvins::ZERO);
            (grain::astm_number(grain_um * 1e-3), skin_mm)
        };
        let (astm, skin_mm) = state(plan);
        // Fine grain may grow as long as it stays fine.
        let coarsest_astm = FINE_ASTM.min(astm - COARSER_ASTM);
        let (most_s, step_s) = STAYS_S;
        let mut extra_s = 0;
        while extra_s < most_s && at.value() > steel.ac1_c {
            let then = state(&stays((extra_s + step_s) as f64));
            if then.0 < coarsest_astm || then.1 > skin_mm + DEEPER_MM {
                break;
            }
            extra_s += step_s;
        }
        let (now, later) = (self.right(plan, 0.0), self.right(&stays(LONGER_S), 0.0));
        let per_min = 1e6 * (now - later).max(0.0) / (LONGER_S / 60.0);
        (extra_s / self.grid_s * self.grid_s, per_min)
    }

    /// Where a stage goes: to the tank it names, else to any that holds its medium; what cools in air lies on the bench.
    fn baths(&self, i: usize, stage: &Stage) -> Result<Vec<String>, NoPlace> {
        if matches!(stage.medium, Medium::StillAir | Medium::ForcedAir) {
            return found(self.places.benches.clone(), i, Need::Bench);
        }
        let holds = self.places.tanks.iter();
        let all: Vec<String> = holds
            .filter(|t| t.1 == stage.medium)
            .map(|t| t.0.clone())
            .collect();
        let named = stage.tank_id.map(|id| id.to_string());
        let at = match named.filter(|n| all.contains(n)) {
            Some(name) => vec![name],
            None => all,
        };
        found(at, i, Need::Tank(stage.medium))
    }

    fn quench(&mut self, i: usize, stages: &[Stage]) -> Result<(), NoPlace> {
        let heat_c = self.wanted.plan.steps()[..i]
            .iter()
            .rev()
            .find_map(|s| match s {
                Step::Austenitize { temperature_c, .. } => Some(temperature_c.value()),
                _ => None,
            });
        let mut hot_c = heat_c.unwrap_or(ROOM_C);
        let timed: f64 = stages
            .iter()
            .filter_map(|s| s.for_s)
            .map(Seconds::value)
            .sum();
        let rest_s = (self.wanted.cold_after.value() - timed).max(self.grid_s as f64);
        for (round, stage) in stages.iter().enumerate() {
            let at = self.baths(i, stage)?;
            let bath_c = stage.bath_c.value();
            // What turns on the way gives up more.
            let turns = if hot_c > self.wanted.steel.ac1_c {
                MARTENSITE_HEAT
            } else {
                0.0
            };
            let per_kg = heat_content(hot_c) - heat_content(bath_c) + turns;
            let gives_j = self.wanted.work.mass_kg() * per_kg;
            let (low_c, high_c) = stage.medium.bath_range_c();
            let first = self.activities.len();
            let bath = Activity {
                at,
                attention: 2,
                quench: stage.medium.is_liquid().then(|| Quench {
                    low_c: (bath_c - BATH_C.0).max(low_c),
                    high_c: (bath_c + BATH_C.1).min(high_c),
                    warms_j: gives_j.max(0.0),
                }),
                ..lasting(
                    "quench",
                    self.up(stage.for_s.map_or(rest_s, Seconds::value)),
                )
            };
            self.add(bath, i, Phase::Bath, round);
            // Straight from the fire, and from bath to bath.
            if let Some(from) = first.checked_sub(1) {
                self.spans.push(Span {
                    from,
                    to: first,
                    max_s: 0,
                    risk: None,
                });
            }
            // What the next bath takes of it is what is left.
            hot_c = bath_c.max(ROOM_C);
        }
        self.quenched = self.activities.len().checked_sub(1);
        self.tempered = false;
        Ok(())
    }

    /// What the wait before the temper does to the odds of a crack.
    fn untempered(&self) -> Risk {
        let odds = |untempered: f64| {
            let causes = Causes {
                untempered,
                ..*self.wanted.causes
            };
            let p = self
                .wanted
                .crack
                .risk(&causes)
                .probability
                .clamp(1e-9, 1.0 - 1e-9);
            (p / (1.0 - p)).ln()
        };
        // How much an hour counts for goes with the carbon in solution, which the causes hold for each of the chill.
        let Causes { chill, carbon, .. } = *self.wanted.causes;
        let per_ln = if chill > 0.0 {
            (carbon / chill / 2.5).min(1.5)
        } else {
            0.0
        };
        Risk {
            base: odds(0.0),
            per_ln_hour: odds(per_ln) - odds(0.0),
        }
    }

    fn temper(&mut self, i: usize) -> Result<(), NoPlace> {
        let Step::Temper {
            temperature_c,
            hold_s,
            times,
            ..
        } = &self.wanted.plan.steps()[i]
        else {
            return Ok(());
        };
        let nominal_c = temperature_c.value();
        let at = self.ovens(i)?;
        let price = |by_c| self.costs_ppm(|plan, by_c| tempered(plan, i, by_c), by_c);
        let heat = Heat {
            nominal_c,
            low_c: nominal_c - MOVED_C,
            high_c: nominal_c + MOVED_C,
            ppm_per_c_under: price(-ASKED_C),
            ppm_per_c_over: price(ASKED_C),
            hrc_per_c: self.hrc_per_c(i),
        };
        let longer = |plan: &Plan| {
            let mut steps = plan.steps().to_vec();
            if let Step::Temper { hold_s, .. } = &mut steps[i] {
                *hold_s = Seconds::clamped(hold_s.value() + LONGER_S);
            }
            plan.with_steps(steps)
        };
        let plan = self.wanted.plan;
        let lost = self.right(plan, 0.0) - self.right(&longer(plan), 0.0);
        let round = Activity {
            at,
            in_s: IN_S,
            heat_s: self.heat_s(Furnace::Oven, nominal_c, ROOM_C),
            out_s: OUT_S,
            temp: Some(heat),
            extra_s: TEMPER_EXTRA_S,
            extra_ppm_per_min: 1e6 * lost.max(0.0) / (LONGER_S / 60.0),
            ..lasting("temper", self.up(hold_s.value()))
        };
        for n in 0..*times as usize {
            if n > 0 {
                self.cools(nominal_c, HAND_C, after(i, n - 1));
            }
            self.add(round.clone(), i, Phase::Temper, n);
            if n == 0 && !self.tempered {
                self.tempered = true;
                // What has to lie between, as the cold, does not count as waiting.
                let between = self.quenched.map_or(0, |q| q + 1)..self.activities.len() - 1;
                let least_s: i64 = self.activities[between].iter().map(least_s).sum();
                let within_s = self.up(self.wanted.temper_within.value()) + least_s;
                let risk = self.untempered();
                self.tie(within_s, Some(risk));
            }
        }
        Ok(())
    }

    fn hardness(&self, plan: &Plan) -> Hardness {
        let subject = Subject {
            plan,
            steel: self.wanted.steel,
            work: self.wanted.work,
            tester: None,
            bar: None,
            operator: None,
        };
        predict(subject, self.wanted.model, &StationNames::new(), None).hardness
    }

    /// How much harder it ends for each degree of a step, HRC.
    fn hrc_per_c(&self, step: usize) -> f64 {
        let at = |by_c| {
            let plan = moved(self.wanted.plan, step, by_c);
            self.hardness(&plan).tempered.middle
        };
        (at(ASKED_C) - at(-ASKED_C)) / (2.0 * ASKED_C)
    }

    /// Chance that hardness ends inside the wanted window and the blade stays whole, with a heat so much hotter.
    fn right(&self, plan: &Plan, hotter_c: f64) -> f64 {
        let Wanted {
            target,
            crack,
            causes,
            ..
        } = *self.wanted;
        let hardness = self.hardness(plan);
        let hard = target.map_or(1.0, |window| inside(&hardness.tempered, window));
        let causes = Causes {
            overheated: (causes.overheated + hotter_c / 10.0).clamp(0.0, 20.0),
            ..*causes
        };
        hard * (1.0 - crack.risk(&causes).probability)
    }

    /// What a degree of such a change costs, ppm; nothing where it helps.
    fn costs_ppm(&self, changed: impl Fn(&Plan, f64) -> (Plan, f64), by_c: f64) -> f64 {
        let (plan, hotter_c) = changed(self.wanted.plan, by_c);
        let lost = self.right(self.wanted.plan, 0.0) - self.right(&plan, hotter_c);
        1e6 * lost.max(0.0) / by_c.abs()
    }
}

/// A heat that may be moved for nothing.
fn free(at: Celsius) -> Heat {
    Heat {
        nominal_c: at.value(),
        low_c: at.value() - MOVED_C,
        high_c: at.value() + MOVED_C,
        ppm_per_c_under: 0.0,
        ppm_per_c_over: 0.0,
        hrc_per_c: 0.0,
    }
}

/// The plan with one step so much hotter.
fn moved(plan: &Plan, step: usize, by_c: f64) -> Plan {
    let mut steps = plan.steps().to_vec();
    if let Step::Austenitize { temperature_c, .. } | Step::Temper { temperature_c, .. } =
        &mut steps[step]
    {
        *temperature_c = temperature_c.plus(Kelvins::of(by_c));
    }
    plan.with_steps(steps)
}

fn hotter(plan: &Plan, step: usize, by_c: f64) -> (Plan, f64) {
    (moved(plan, step, by_c), by_c)
}

fn tempered(plan: &Plan, step: usize, by_c: f64) -> (Plan, f64) {
    (moved(plan, step, by_c), 0.0)
}

#[cfg(test)]
pub(super) mod tests {
    use super::*;
    use crate::learning::bias_models::BiasModels;
    use crate::planning::check::judge;
    use crate::planning::day::{Bath, Day, Fire, Operator, Price, Sharing, Station, Unattended};
    use crate::planning::plan::Plan as Laid;
    use crate::planning::problem::Problem;
    use crate::planning::search::{Budget, search};
    use crate::prediction::outcome::outcomes;
    use crate::simulation::heat::Heat as SimulatedHeat;
    use crate::simulation::physics::tests::{blade, plan};
    use crate::simulation::simulated::{causes, simulated};

    pub(in crate::planning) const PLAN: &str = r#"[{"kind":"normalize","temperature_c":860,"times":2},{"kind":"preheat","temperature_c":600,"hold_s":300},
        {"kind":"austenitize","temperature_c":815,"soak_s":300},{"kind":"quench","stages":[{"medium":"fast_oil"}]},
        {"kind":"straighten"},{"kind":"temper","temperature_c":220,"hold_s":7200,"times":2}]"#;

    pub(in crate::planning) fn places() -> Places {
        Places {
            fires: vec!["kiln".to_owned()],
            ovens: vec!["oven".to_owned()],
            tanks: vec![("oil".to_owned(), Medium::FastOil)],
            cold: Vec::new(),
            benches: vec!["bench".to_owned()],
        }
    }

    fn asked(key: &str, steps: &str, target: (f64, f64), id: &str) -> Result<Blade, NoPlace> {
        asked_at(key, steps, target, id, &places())
    }

    fn asked_at(
        key: &str,
        steps: &str,
        target: (f64, f64),
        id: &str,
        places: &Places,
    ) -> Result<Blade, NoPlace> {
        planned(key, steps, target, id, places).map(|p| p.blade)
    }

    /// A blade of a steel with its plan.
    pub(in crate::planning) fn planned(
        key: &str,
        steps: &str,
        target: (f64, f64),
        id: &str,
        places: &Places,
    ) -> Result<PlannedBlade, NoPlace> {
        let steel = Steel::built_in(key).unwrap();
        let plan = plan(steps);
        let work = Workpiece::plain(&blade());
        let (whole, quenched) =
            outcomes(&work, &plan, steel, &BiasModels::default(), 2.0, None).unwrap();
        let wanted = Wanted {
            id,
            plan: &plan,
            steel,
            work: &work,
            target: Some(target),
            model: &Model::default(),
            crack: &CrackModel::default(),
            causes: &whole.crack_causes,
            cold_after: Seconds::clamped(quenched.seconds),
            temper_within: Seconds::clamped(4.0 * 3600.0),
            release_s: 0,
            due_s: None,
        };
        PlannedBlade::of(&wanted, places, 30)
    }

    #[test]
    fn a_plan_becomes_activities_in_its_order() {
        let blade = asked("1084", PLAN, (58.0, 61.0), "K-1").unwrap();
        let kinds: Vec<&str> = blade.activities.iter().map(|a| a.kind.as_str()).collect();
        assert_eq!(
            kinds,
            [
                "normalize",
                "cool",
                "normalize",
                "cool",
                "austenitize",
                "quench",
                "straighten",
                "temper",
                "cool",
                "temper"
            ]
        );
        let heat = &blade.activities[4];
        // Minutes, not seconds and not hours; after an even heat less.
        assert!((60..1200).contains(&heat.heat_s), "{heat:?}");
        assert!(heat.pre.is_some_and(|p| p.nominal_c == 600.0));
        assert!(heat.heat_s < blade.activities[0].heat_s);
        let spans: Vec<(usize, usize, i64)> = blade
            .spans
            .iter()
            .map(|s| (s.from, s.to, s.max_s))
            .collect();
        assert_eq!(spans, [(4, 5, 0), (5, 6, 60), (5, 7, 14_400 + 120)]);
        assert!(
            blade
                .activities
                .iter()
                .all(|a| a.hold_s % 30 == 0 && a.heat_s % 30 == 0)
        );
    }

    #[test]
    fn prices_are_those_of_the_blade() {
        let wide = asked("1084", PLAN, (55.0, 64.0), "K-1").unwrap();
        let narrow = asked("1084", PLAN, (59.0, 60.5), "K-1").unwrap();
        let temper = |b: &Blade| b.activities.last().unwrap().temp.unwrap();
        let dear = |h: Heat| h.ppm_per_c_under + h.ppm_per_c_over;
        assert!(dear(temper(&narrow)) > 2.0 * dear(temper(&wide)));
        assert!(temper(&wide).ppm_per_c_under >= 0.0);
    }

    /// A hotter temper leaves it softer, by a few tenths for ten degrees; the tables say .2 to .6 HRC at about 220 °C.
    #[test]
    fn a_degree_in_the_temper_is_worth_what_the_tables_say() {
        let blade = asked("1084", PLAN, (58.0, 61.0), "K-1").unwrap();
        let temper = blade.activities.last().unwrap().temp.unwrap();
        assert!((-0.08..-0.01).contains(&temper.hrc_per_c), "{temper:?}");
    }

    /// The wait is priced as the crack model has it: hour by hour the same odds.
    #[test]
    fn waiting_hard_costs_what_the_crack_model_says() {
        let steel = Steel::built_in("1095").unwrap();
        let plan = plan(&PLAN.replace("815", "800"));
        let work = Workpiece::plain(&blade());
        let blade = asked("1095", &PLAN.replace("815", "800"), (59.0, 62.0), "K-1").unwrap();
        let risk = blade.spans.last().unwrap().risk.unwrap();
        let chill = simulated(&work, &plan, steel, None).unwrap().bend.chill;
        let heat = SimulatedHeat::new(&work, &plan, steel, Kelvins::ZERO);
        let chance = |hours: f64| {
            let waited = Some(Seconds::clamped(3600.0 * hours));
            let lived = Plan::done(plan.steps().to_vec(), waited);
            let causes = causes(&work, &lived, steel, &heat, chill);
            CrackModel::default().risk(&causes).probability
        };
        for hours in [0.5, 1.0, 3.0] {
            let priced = 1e-6 * risk.ppm((3600.0 * hours) as i64, 0);
            let more = chance(hours) - chance(0.0);
            assert!(
                (priced - more).abs() < 1e-3 * more,
                "{hours} {priced} {more}"
            );
        }
        assert!(chance(3.0) > chance(0.0));
    }

    #[test]
    fn the_cold_between_quench_and_temper_does_not_count_as_waiting() {
        let cold = PLAN.replace(
            r#"{"kind":"temper""#,
            r#"{"kind":"sub_zero","temperature_c":-75,"hold_s":7200},{"kind":"temper""#,
        );
        let with_box = Places {
            cold: vec!["box".to_owned()],
            ..places()
        };
        let limit = |steps: &str, places: &Places| {
            let blade = asked_at("1095", steps, (59.0, 62.0), "K-1", places).unwrap();
            let mut spans = blade.spans.iter();
            spans.find(|s| s.risk.is_some()).unwrap().max_s
        };
        let (plain, cold) = (limit(PLAN, &places()), limit(&cold, &with_box));
        assert_eq!(cold - plain, 7200 + IN_S + OUT_S);
    }

    #[test]
    fn a_blade_with_clay_shares_only_a_heat_that_leaves_its_line_where_it_is() {
        let clay = PLAN.replace(
            r#"{"kind":"preheat""#,
            r#"{"kind":"clay","temperature_c":200,"hold_s":3600},{"kind":"preheat""#,
        );
        let width = |steps: &str| {
            let blade = asked("1095", steps, (59.0, 62.0), "K-1").unwrap();
            let mut all = blade.activities.iter();
            let heat = all.find(|a| a.kind == "austenitize").unwrap().temp.unwrap();
            heat.high_c - heat.low_c
        };
        assert_eq!(width(&clay), 2.0 * KILN_C);
        assert!(width(PLAN) > 2.0 * KILN_C);
    }

    #[test]
    fn a_hotter_fire_is_borne_for_less_long_and_a_coat_for_longer() {
        let extra = |c: &str, coat: &str| {
            let steps = PLAN.replace("815", c);
            let steps = steps.replace(
                r#"{"kind":"preheat""#,
                &format!(r#"{coat}{{"kind":"preheat""#),
            );
            let blade = asked("1084", &steps, (55.0, 65.0), "K-1").unwrap();
            let mut all = blade.activities.iter();
            all.find(|a| a.kind == "austenitize").unwrap().extra_s
        };
        let coat = r#"{"kind":"coat"},"#;
        println!(
            "{} {} {}",
            extra("815", ""),
            extra("815", coat),
            extra("920", coat)
        );
        assert!(extra("815", coat) > extra("815", ""));
        assert!(extra("920", coat) < extra("815", coat));
    }

    #[test]
    fn cooling_in_air_goes_with_the_thickness() {
        // A plate of 4 mm is black in about a minute, and cold in a quarter of an hour or so.
        let black = in_air_s(815.0, 500.0, 4.0);
        assert!((25.0..150.0).contains(&black), "{black}");
        let cold = in_air_s(815.0, 40.0, 4.0);
        assert!((600.0..3000.0).contains(&cold), "{cold}");
        let ratio = in_air_s(815.0, 500.0, 8.0) / black;
        assert!((ratio - 2.0).abs() < 0.1, "{ratio}");
    }

    #[test]
    fn what_the_shop_has_no_place_for_is_told() {
        let oil = PLAN.replace("fast_oil", "water");
        let refused = asked("1084", &oil, (58.0, 61.0), "K-1").unwrap_err();
        let need = Need::Tank(Medium::Water);
        assert_eq!(refused, NoPlace { step: 4, need });
    }

    fn station(id: &str, sharing: Sharing, units: i64) -> Station {
        Station {
            id: id.to_owned(),
            kind: id.to_owned(),
            sharing,
            units,
            depth_mm: 0.0,
            attention: 0,
            unattended: Unattended::Always,
            more_per_blade: 0.35,
            timer_extra_s: 0,
            fire: None,
            bath: None,
        }
    }

    #[test]
    fn blades_of_the_engine_make_a_day_that_keeps_the_rules() {
        let fire = |heat_s_per_c: f64, cool_tau_s: f64| {
            Some(Fire {
                start_c: 20.0,
                start_s: 0,
                heat_s_per_c,
                cool_tau_s,
            })
        };
        let stations = vec![
            Station {
                fire: fire(3.0, 9000.0),
                unattended: Unattended::Present,
                ..station("kiln", Sharing::Load, 4)
            },
            Station {
                fire: fire(4.0, 3600.0),
                timer_extra_s: 50_000,
                ..station("oven", Sharing::Rolling, 6)
            },
            Station {
                bath: Some(Bath {
                    start_c: 50.0,
                    rest_c: 50.0,
                    tau_s: 2400.0,
                    j_per_c: 30_000.0,
                }),
                ..station("oil", Sharing::Rolling, 1)
            },
            station("bench", Sharing::Rolling, 3),
        ];
        let blades = vec![
            asked("1084", PLAN, (58.0, 61.0), "K-1").unwrap(),
            asked("1095", &PLAN.replace("815", "800"), (59.0, 62.0), "K-2").unwrap(),
            asked("80crv2", &PLAN.replace("815", "830"), (57.0, 60.0), "K-3").unwrap(),
        ];
        let day = Day {
            id: "day".to_owned(),
            grid_s: 30,
            now_s: 0,
            horizon_s: 36 * 3600,
            ambient_c: 20.0,
            price: Price {
                accept_ppm: 10_000,
                s_per_1000ppm: 90.0,
                hands: 0.5,
                change_s: 600.0,
                moved: 0.0,
            },
            operators: vec![Operator {
                id: "one".to_owned(),
                hours: vec![(0, 12 * 3600)],
                breaks: vec![(4 * 3600, 4 * 3600 + 1800)],
                not: Vec::new(),
            }],
            stations,
            blades,
            pins: Vec::new(),
            past: Vec::new(),
            before: Vec::new(),
        };
        let problem = Problem::new(&day).unwrap();
        let budget = Budget {
            passes: 300,
            seed: 1,
            known: Vec::new(),
        };
        let found = search(&problem, &budget, || false);
        let laid = Laid::of(&day, &problem, &found.genome);
        assert!(laid.left_out.is_empty(), "{:?}", laid.left_out);
        let judged = judge(&day, &laid);
        assert!(judged.breaches.is_empty(), "{:?}", judged.breaches);
        // Nothing lies hard for longer than the shop allows, and it is a day, not a week.
        assert!(judged.measures.end_s < 24 * 3600, "{:?}", judged.measures);
    }
}
