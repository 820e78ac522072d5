//! The steps of a firing as they stand once it went another way than was planned: what was left out, done
//! again, put in, drawn forward, or is to last longer. Steps are known by a number that stays: first those of
//! the plan by their position, then those that were put in at the fire, in the order they were.

use super::action::{ActionKind, Caution, Doing, FiringAction, Mark, of_step};
use super::event::Refusal;
use crate::material::medium::Medium;
use crate::process::manner::Clamp;
use crate::process::plan::MAX_STEPS;
use crate::process::step::{Look, Step, StepKind};
use crate::quantity::units::{Celsius, Millimetres, Seconds};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// How a firing leaves its plan. Steps are named by their number, rounds from 0.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "deviation", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Deviation {
    /// A step is left out, or what is left of it from a round of a temper or a bath of a quench on.
    LeftOut {
        /// The step.
        step: usize,
        /// The first round or bath that is not done; the whole step when left out.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        round: Option<usize>,
    },
    /// Steps that follow each other are done once more, next.
    Again {
        /// The first of them.
        from: usize,
        /// The last of them.
        to: usize,
    },
    /// A step that was not planned comes next.
    Extra {
        /// The step.
        step: Step,
    },
    /// A step that was planned for later comes next.
    Earlier {
        /// The step.
        step: usize,
    },
    /// A hold or a bath is to last so long.
    Timed {
        /// The step.
        step: usize,
        /// Which round or bath.
        #[serde(default)]
        round: usize,
        /// How long, s.
        lasts_s: Seconds,
    },
    /// A heat, a temper or a cold that is still to come is to be at another temperature.
    Heat {
        /// The step.
        step: usize,
        /// Its temperature.
        temperature_c: Celsius,
    },
    /// It is clamped to a straight bar in a temper that is not over.
    Clamp {
        /// The step.
        step: usize,
        /// How far past straight a shim holds it; straight when left out.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        shim_mm: Option<Millimetres>,
    },
}

/// A deviation as it was said.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Deviated {
    /// The event that said it.
    pub event: Uuid,
    /// Number of actions that were confirmed by then.
    pub position: usize,
    /// What.
    #[serde(flatten)]
    pub deviation: Deviation,
}

/// A plan with what there is to do in it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = PlannedActions))]
pub struct Planned {
    /// Its steps.
    pub steps: Vec<Step>,
    /// What there is to do, in order.
    pub actions: Vec<FiringAction>,
}

/// One step with what there is to do in it.
#[derive(Debug, Clone, PartialEq)]
struct CourseStep {
    number: usize,
    actions: Vec<FiringAction>,
}

/// The steps as they stand.
#[derive(Debug, Clone, PartialEq)]
pub struct Course {
    /// Every step there ever was, by its number.
    steps: Vec<Step>,
    /// Those that are done or to be done, in order.
    order: Vec<CourseStep>,
}

impl Course {
    /// As planned.
    #[must_use]
    pub fn planned(steps: &[Step]) -> Self {
        let order = steps.iter().enumerate().map(|(number, step)| CourseStep {
            number,
            actions: of_step(step, number),
        });
        let mut course = Self {
            steps: steps.to_vec(),
            order: order.collect(),
        };
        course.mend_ways_out(0);
        course
    }

    /// After everything that was said; what cannot be changes nothing.
    #[must_use]
    pub fn after(steps: &[Step], deviations: &[Deviated]) -> Self {
        let mut course = Self::planned(steps);
        for deviated in deviations {
            if let Ok(then) = course.deviated(deviated.position, &deviated.deviation) {
                course = then;
            }
        }
        course
    }

    /// Every step there ever was, by its number: those left out as well.
    #[must_use]
    pub fn steps(&self) -> &[Step] {
        &self.steps
    }

    /// The numbers of the steps that are done or to be done, in order.
    #[must_use]
    pub fn order(&self) -> Vec<usize> {
        self.order.iter().map(|s| s.number).collect()
    }

    /// What there is to do, in order.
    #[must_use]
    pub fn actions(&self) -> Vec<FiringAction> {
        let mut all: Vec<FiringAction> = self
            .order
            .iter()
            .flat_map(|s| s.actions.iter().cloned())
            .collect();
        self.count_heats(&mut all);
        warn_of_hard(&mut all);
        all
    }

    /// Number of actions.
    pub(super) fn len(&self) -> usize {
        self.order.iter().map(|s| s.actions.len()).sum()
    }

    /// The action at a place.
    pub(super) fn action(&self, at: usize) -> Option<&FiringAction> {
        self.order.iter().flat_map(|s| &s.actions).nth(at)
    }

    /// The course after a deviation that was said when `position` actions were confirmed.
    ///
    /// # Errors
    /// Why it cannot be.
    pub fn deviated(&self, position: usize, deviation: &Deviation) -> Result<Self, Refusal> {
        let mut then = self.clone();
        match deviation {
            Deviation::LeftOut { step, round } => then.leave_out(position, *step, *round)?,
            Deviation::Again { from, to } => then.again(position, *from, *to)?,
            Deviation::Extra { step } => then.put_in(position, std::slice::from_ref(step))?,
            Deviation::Earlier { step } => then.draw_forward(position, *step)?,
            Deviation::Timed {
                step,
                round,
                lasts_s,
            } => then.time(*step, *round, *lasts_s)?,
            Deviation::Heat {
                step,
                temperature_c,
            } => then.set_heat(position, *step, *temperature_c)?,
            Deviation::Clamp { step, shim_mm } => then.clamp(position, *step, *shim_mm)?,
        }
        then.mend_ways_out(position);
        if self.hardens() && !then.hardens() {
            return Err(Refusal::NothingHardens);
        }
        Ok(then)
    }

    /// Something is quenched, and it was at heat before.
    fn hardens(&self) -> bool {
        let kinds: Vec<StepKind> = self.order.iter().map(|s| self.kind(s)).collect();
        kinds
            .iter()
            .position(|kind| *kind == StepKind::Quench)
            .is_some_and(|quench| kinds[..quench].contains(&StepKind::Austenitize))
    }

    fn kind(&self, step: &CourseStep) -> StepKind {
        self.steps[step.number].kind()
    }

    /// Where a step stands.
    fn place(&self, number: usize) -> Result<usize, Refusal> {
        let known = self.order.iter().position(|s| s.number == number);
        known.ok_or(Refusal::NoSuchStep)
    }

    /// The first action of the step at a place.
    fn first_of(&self, place: usize) -> usize {
        self.order[..place].iter().map(|s| s.actions.len()).sum()
    }

    /// Where a step that comes next stands: behind the one that was begun last.
    fn next_place(&self, position: usize) -> usize {
        let mut first = 0;
        for (place, step) in self.order.iter().enumerate() {
            if first >= position {
                return place;
            }
            first += step.actions.len();
        }
        self.order.len()
    }

    fn leave_out(
        &mut self,
        position: usize,
        number: usize,
        round: Option<usize>,
    ) -> Result<(), Refusal> {
        let place = self.place(number)?;
        let first = self.first_of(place);
        let Some(round) = round.filter(|r| *r > 0) else {
            if first < position {
                return Err(Refusal::Begun);
            }
            self.order.remove(place);
            return Ok(());
        };
        if round >= self.steps[number].rounds() {
            return Err(Refusal::NoSuchRound);
        }
        let actions = &mut self.order[place].actions;
        let at = actions.iter().position(|a| a.round == round);
        let at = at.ok_or(Refusal::NoSuchRound)?;
        if first + at < position {
            return Err(Refusal::Begun);
        }
        actions.retain(|a| a.round < round);
        match &mut self.steps[number] {
            Step::Temper { times, .. } => *times = u32::try_from(round).unwrap_or(*times),
            Step::Quench { stages } => stages.truncate(round),
            _ => {}
        }
        Ok(())
    }

    fn again(&mut self, position: usize, from: usize, to: usize) -> Result<(), Refusal> {
        let (first, last) = (self.place(from)?, self.place(to)?);
        if first > last {
            return Err(Refusal::NoSuchStep);
        }
        let steps: Vec<Step> = self.order[first..=last]
            .iter()
            .map(|s| self.steps[s.number].clone())
            .collect();
        self.put_in(position, &steps)
    }

    /// Puts steps in, to come next.
    fn put_in(&mut self, position: usize, steps: &[Step]) -> Result<(), Refusal> {
        if self.steps.len() + steps.len() > 2 * MAX_STEPS {
            return Err(Refusal::TooMany);
        }
        let cools = |s: &Step| s.kind() == StepKind::Straighten || s.kind() == StepKind::Check;
        let in_bath = position
            .checked_sub(1)
            .and_then(|i| self.action(i))
            .is_some_and(|a| {
                matches!(
                    a.doing,
                    Doing::Quenching { .. } | Doing::StraighteningWarm {}
                )
            });
        if in_bath && !steps.iter().all(cools) {
            return Err(Refusal::StillHot);
        }
        let quench = steps.iter().position(|s| s.kind() == StepKind::Quench);
        if quench.is_some_and(|q| !steps[..q].iter().any(|s| s.kind() == StepKind::Austenitize)) {
            return Err(Refusal::NothingHardens);
        }
        let place = self.next_place(position);
        let number = self.steps.len();
        let new = steps.iter().enumerate().map(|(i, step)| CourseStep {
            number: number + i,
            actions: of_step(step, number + i),
        });
        self.order.splice(place..place, new);
        self.steps.extend_from_slice(steps);
        Ok(())
    }

    fn draw_forward(&mut self, position: usize, number: usize) -> Result<(), Refusal> {
        let (place, next) = (self.place(number)?, self.next_place(position));
        if place < next {
            return Err(Refusal::Begun);
        }
        let step = self.order.remove(place);
        self.order.insert(next, step);
        Ok(())
    }

    fn time(&mut self, number: usize, round: usize, lasts_s: Seconds) -> Result<(), Refusal> {
        let place = self.place(number)?;
        let timed = |a: &&mut FiringAction| a.round == round && a.lasts_s.is_some();
        let action = self.order[place].actions.iter_mut().find(timed);
        action.ok_or(Refusal::NoSuchRound)?.lasts_s = Some(lasts_s.value());
        Ok(())
    }

    /// Where a step stands that is not over.
    fn place_ahead(&self, position: usize, number: usize) -> Result<usize, Refusal> {
        let place = self.place(number)?;
        if self.first_of(place) + self.order[place].actions.len() <= position {
            return Err(Refusal::Begun);
        }
        Ok(place)
    }

    fn clamp(
        &mut self,
        position: usize,
        number: usize,
        shim_mm: Option<Millimetres>,
    ) -> Result<(), Refusal> {
        self.place_ahead(position, number)?;
        let Step::Temper { clamp, .. } = &mut self.steps[number] else {
            return Err(Refusal::NoTemper);
        };
        *clamp = Some(Clamp { shim_mm });
        Ok(())
    }

    fn set_heat(&mut self, position: usize, number: usize, t: Celsius) -> Result<(), Refusal> {
        let place = self.place_ahead(position, number)?;
        if !is_heat(self.kind(&self.order[place])) {
            return Err(Refusal::NoHeat);
        }
        let step = &mut self.steps[number];
        if let Some((by, _)) = step.judged() {
            // A heat in degrees is by an instrument.
            *by = None;
        }
        step.set_temperature(0, t);
        Ok(())
    }

    /// Out of a bath that was not left yet: warm, where it is straightened next.
    fn mend_ways_out(&mut self, position: usize) {
        let mut first = 0;
        for place in 0..self.order.len() {
            let next = self.order.get(place + 1).map(|s| self.kind(s));
            let actions = &mut self.order[place].actions;
            let last = first + actions.len();
            first = last;
            if last > position
                && let Some(out) = actions.last_mut().filter(|a| a.mark == Mark::Quenched)
            {
                out.leave_bath(next == Some(StepKind::Straighten));
            }
        }
    }

    /// Numbers the heats of a kind that follow each other, and the rounds that are left of a temper.
    fn count_heats(&self, actions: &mut [FiringAction]) {
        let kinds: Vec<StepKind> = self.order.iter().map(|s| self.kind(s)).collect();
        let mut at = 0;
        for (place, step) in self.order.iter().enumerate() {
            let kind = kinds[place];
            let (number, count) = match &self.steps[step.number] {
                Step::Temper { times, .. } => (None, *times),
                _ => {
                    let same = |k: &&StepKind| **k == kind;
                    let before = kinds[..place].iter().rev().take_while(same).count();
                    let after = kinds[place + 1..].iter().take_while(same).count();
                    (Some(counted(before + 1)), counted(before + 1 + after))
                }
            };
            for action in &mut actions[at..at + step.actions.len()] {
                if let Some(heat) = action.doing.heat() {
                    heat.number = number.unwrap_or(heat.number);
                    heat.count = count;
                }
            }
            at += step.actions.len();
        }
    }
}

/// Steps that can be set to another temperature at the fire.
const fn is_heat(kind: StepKind) -> bool {
    matches!(
        kind,
        StepKind::Anneal
            | StepKind::StressRelief
            | StepKind::Normalize
            | StepKind::Refine
            | StepKind::Preheat
            | StepKind::Austenitize
            | StepKind::SubZero
            | StepKind::Temper
    )
}

fn counted(n: usize) -> u32 {
    u32::try_from(n).unwrap_or(u32::MAX)
}

/// A blade that lies hard is brittle before it is anything else, while it cools and while it is looked at; a
/// magnet is held to steel that still glows.
fn warn_of_hard(actions: &mut [FiringAction]) {
    let mut hard = false;
    for action in actions {
        hard = match action.mark {
            Mark::Quenched => true,
            Mark::Tempering => false,
            _ => hard && action.kind != ActionKind::IntoFire {},
        };
        match action.doing {
            Doing::Looking { look: Look::Magnet } => action.caution = Caution::Hot,
            Doing::Looking { .. } | Doing::Cooled {} if hard => action.caution = Caution::Brittle,
            Doing::Looking { .. } | Doing::Cooled {} => action.caution = Caution::Air,
            _ => {}
        }
    }
}

/// Baths that were other ones than planned.
pub(super) fn into_said(actions: &mut [FiringAction], said: &[(usize, usize, Medium)]) {
    for action in actions {
        if matches!(action.kind, ActionKind::IntoBath { .. })
            && let Some((.., medium)) = said
                .iter()
                .rfind(|(step, round, _)| (*step, *round) == (action.step, action.round))
        {
            action.go_into(*medium);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::units::Quantity;
    use crate::simulation::physics::tests::plan;
    use rstest::rstest;

    fn steps() -> Vec<Step> {
        plan(
            r#"[{"kind":"normalize","temperature_c":870,"times":2},
                {"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"water","for_s":2},{"medium":"fast_oil"}]},
                {"kind":"check","look":"straight"},
                {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#,
        )
        .steps()
        .to_vec()
    }

    /// Normalize twice, the hardening heat, two baths, out, a look, two tempers.
    fn planned() -> Course {
        let course = Course::planned(&steps());
        assert_eq!(course.len(), 3 + 3 + 2 + 3 + 1 + 6);
        course
    }

    fn again(from: usize, to: usize) -> Deviation {
        Deviation::Again { from, to }
    }

    fn left_out(step: usize, round: Option<usize>) -> Deviation {
        Deviation::LeftOut { step, round }
    }

    #[test]
    fn an_extra_heat_comes_next_and_the_heats_are_counted_anew() {
        let course = planned().deviated(4, &again(1, 1)).unwrap();
        assert_eq!(course.order(), [0, 1, 6, 2, 3, 4, 5]);
        let heats: Vec<_> = course
            .actions()
            .into_iter()
            .filter(|a| a.kind == ActionKind::IntoFire {})
            .filter_map(|mut a| a.doing.heat().map(|h| (h.number, h.count)))
            .collect();
        assert_eq!(heats, [(1, 3), (2, 3), (3, 3), (1, 1)]);
    }

    #[test]
    fn what_is_next_can_be_left_out_and_what_was_begun_cannot() {
        let course = planned();
        assert_eq!(
            course.deviated(3, &left_out(1, None)).unwrap().order(),
            [0, 2, 3, 4, 5]
        );
        assert_eq!(course.deviated(4, &left_out(1, None)), Err(Refusal::Begun));
        assert_eq!(
            course.deviated(0, &left_out(9, None)),
            Err(Refusal::NoSuchStep)
        );
    }

    #[rstest]
    #[case(2)]
    #[case(3)]
    fn without_heat_or_quench_nothing_hardens(#[case] step: usize) {
        assert_eq!(
            planned().deviated(0, &left_out(step, None)),
            Err(Refusal::NothingHardens)
        );
    }

    #[test]
    fn a_second_bath_or_a_second_temper_is_left_out_by_itself() {
        let course = planned().deviated(9, &left_out(3, Some(1))).unwrap();
        assert!(matches!(&course.steps()[3], Step::Quench { stages } if stages.len() == 1));
        assert_eq!(course.actions()[9].kind, ActionKind::OutCold {});
        let course = planned().deviated(14, &left_out(5, Some(1))).unwrap();
        assert!(matches!(&course.steps()[5], Step::Temper { times: 1, .. }));
        assert_eq!(course.len(), 12 + 3);
        assert_eq!(
            planned().deviated(16, &left_out(5, Some(1))),
            Err(Refusal::Begun)
        );
        assert_eq!(
            planned().deviated(9, &left_out(3, Some(2))),
            Err(Refusal::NoSuchRound)
        );
    }

    #[test]
    fn it_is_quenched_again_from_a_heat_and_only_once_it_is_cold() {
        let course = planned();
        assert_eq!(course.deviated(10, &again(2, 3)), Err(Refusal::StillHot));
        assert_eq!(
            course.deviated(11, &again(3, 3)),
            Err(Refusal::NothingHardens)
        );
        let twice = course.deviated(11, &again(2, 3)).unwrap();
        assert_eq!(twice.order(), [0, 1, 2, 3, 6, 7, 4, 5]);
    }

    #[test]
    fn straightening_that_comes_next_takes_it_out_warm() {
        let extra = Deviation::Extra {
            step: Step::Straighten {},
        };
        let warm = planned().deviated(10, &extra).unwrap();
        assert_eq!(warm.actions()[10].kind, ActionKind::OutWarm {});
        // Once it is out cold, it was out cold.
        let cold = planned().deviated(11, &extra).unwrap();
        assert_eq!(cold.actions()[10].kind, ActionKind::OutCold {});
        assert_eq!(cold.actions()[11].kind, ActionKind::Straightened {});
    }

    #[test]
    fn the_temper_is_drawn_forward_of_the_look() {
        let earlier = |step| Deviation::Earlier { step };
        let course = planned().deviated(11, &earlier(5)).unwrap();
        assert_eq!(course.order(), [0, 1, 2, 3, 5, 4]);
        // It is no longer hard when it is looked at.
        assert_eq!(course.actions().last().unwrap().caution, Caution::Air);
        assert_eq!(planned().deviated(11, &earlier(2)), Err(Refusal::Begun));
        assert_eq!(
            planned().deviated(0, &earlier(3)),
            Err(Refusal::NothingHardens)
        );
    }

    #[test]
    fn a_hold_is_timed_anew() {
        let longer = |step, round| Deviation::Timed {
            step,
            round,
            lasts_s: Seconds::clamped(600.0),
        };
        let course = planned().deviated(8, &longer(2, 0)).unwrap();
        assert_eq!(course.actions()[7].lasts_s, Some(600.0));
        assert_eq!(
            planned().deviated(8, &longer(3, 1)),
            Err(Refusal::NoSuchRound),
            "the last bath lasts until it is cold"
        );
    }

    #[test]
    fn a_temper_that_is_to_come_is_set_to_another_heat() {
        let heat = |step| Deviation::Heat {
            step,
            temperature_c: Celsius::clamped(190.0),
        };
        let course = planned().deviated(12, &heat(5)).unwrap();
        let Step::Temper { temperature_c, .. } = course.steps()[5] else {
            panic!()
        };
        assert_eq!(temperature_c.value(), 190.0);
        assert_eq!(planned().deviated(12, &heat(2)), Err(Refusal::Begun));
        assert_eq!(planned().deviated(2, &heat(3)), Err(Refusal::NoHeat));
    }

    #[test]
    fn a_bowed_blade_is_clamped_in_the_temper() {
        let clamp = |step| Deviation::Clamp {
            step,
            shim_mm: Some(Millimetres::clamped(1.5)),
        };
        let course = planned().deviated(11, &clamp(5)).unwrap();
        assert!(
            matches!(course.steps()[5], Step::Temper { clamp: Some(c), .. }
            if c.shim_mm == Some(Millimetres::clamped(1.5)))
        );
        assert_eq!(planned().deviated(2, &clamp(3)), Err(Refusal::NoTemper));
        assert_eq!(planned().deviated(18, &clamp(5)), Err(Refusal::Begun));
    }

    #[test]
    fn there_is_an_end_to_putting_in() {
        let mut course = planned();
        let mut put_in = 0;
        while let Ok(more) = course.deviated(3, &again(0, 0)) {
            course = more;
            put_in += 1;
        }
        assert_eq!(put_in, 2 * MAX_STEPS - steps().len());
        assert_eq!(course.deviated(3, &again(0, 0)), Err(Refusal::TooMany));
    }
}
