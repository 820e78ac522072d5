//! The plan broken into actions that are done and confirmed one by one.

use super::course::Course;
use crate::material::medium::Medium;
use crate::process::manner::Bed;
use crate::process::step::{Look, Part, Stage, Step, StepKind};
use crate::quantity::units::{Celsius, Seconds};
use serde::{Deserialize, Serialize};

/// One thing to do and confirm.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FiringAction {
    /// Position of its step in the plan.
    pub step: usize,
    /// Which round of a temper or which bath of a quench, from 0.
    #[serde(default)]
    pub round: usize,
    /// What is to be done.
    pub kind: ActionKind,
    /// What goes on once it was confirmed.
    pub doing: Doing,
    /// How long that should last, s; None until the smith says so.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lasts_s: Option<f64>,
    /// The caution that belongs to this moment.
    pub caution: Caution,
    /// What confirming it does to the blade.
    pub mark: Mark,
    /// Several blades can do it in one go: a load in one fire, one oven, one cold box. A quench is done
    /// blade by blade.
    pub together: bool,
}

/// What confirming an action says was done.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum ActionKind {
    /// Put into the fire.
    IntoFire {},
    /// The fire is at heat.
    AtHeat {},
    /// The blade is as hot all over as the fire.
    Even {},
    /// The fire is back at heat: the soak begins.
    StartSoak {},
    /// Taken out to cool in air.
    OutToCool {},
    /// The fire is shut down with the blade in it.
    ShutDown {},
    /// Out of the fire into what it cools in slowly.
    Bedded {
        /// In what.
        bed: Bed,
    },
    /// The mark is in.
    Stamped {},
    /// The coating is on.
    Coated {},
    /// The foil is folded shut.
    PouchClosed {},
    /// The clay is on.
    ClayOn {},
    /// The clay is dry.
    ClayDry {},
    /// It is straight.
    Straightened {},
    /// It has cooled down.
    Cooled {
        /// Down to, °C.
        temperature_c: Celsius,
    },
    /// A part was softened with the torch.
    Torched {
        /// Which part.
        part: Part,
    },
    /// It was looked at.
    Looked {},
    /// Put into a bath, between plates or into air.
    IntoBath {
        /// The medium.
        medium: Medium,
    },
    /// Taken out of the last bath while warm, to be straightened.
    OutWarm {},
    /// Taken out of the last bath cold.
    OutCold {},
    /// Put into the cold.
    IntoCold {},
    /// Taken out of the cold.
    OutOfCold {},
    /// Put into the oven.
    IntoOven {},
    /// The oven is at heat.
    OvenAtHeat {},
}

/// Which heat this is: the kind of its step, and its number among the same in a row.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = HeatInRow))]
pub struct Heat {
    /// Kind of the step.
    pub kind: StepKind,
    /// Its number, from 1.
    pub number: u32,
    /// How many there are in a row.
    pub count: u32,
}

impl Heat {
    /// One by itself.
    const fn only(kind: StepKind) -> Self {
        Self {
            kind,
            number: 1,
            count: 1,
        }
    }
}

impl Doing {
    /// The heat it goes on in.
    pub(super) const fn heat(&mut self) -> Option<&mut Heat> {
        match self {
            Self::Heating { heat }
            | Self::EveningOut { heat }
            | Self::Soaking { heat }
            | Self::Holding { heat }
            | Self::Cooling { heat } => Some(heat),
            _ => None,
        }
    }
}

/// What goes on after an action was confirmed.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Doing {
    /// It gets hot.
    Heating {
        /// In which heat.
        heat: Heat,
    },
    /// It evens out at heat.
    EveningOut {
        /// In which heat.
        heat: Heat,
    },
    /// It soaks.
    Soaking {
        /// In which heat.
        heat: Heat,
    },
    /// It is held.
    Holding {
        /// In which heat.
        heat: Heat,
    },
    /// It cools.
    Cooling {
        /// After which heat.
        heat: Heat,
    },
    /// The coating dries.
    Coated {},
    /// It lies in its pouch.
    InPouch {},
    /// The clay dries.
    ClayDrying {},
    /// The clay is dry.
    ClayDry {},
    /// It was straightened.
    Straightened {},
    /// It has cooled.
    Cooled {},
    /// A part is softened.
    Torched {
        /// Which.
        part: Part,
    },
    /// It was stamped.
    Stamped {},
    /// It is looked at.
    Looking {
        /// For what.
        look: Look,
    },
    /// It is quenched.
    Quenching {
        /// In what.
        medium: Medium,
    },
    /// It is straightened while it bends easily.
    StraighteningWarm {},
    /// It is looked over, fresh from the bath.
    LookingOver {},
    /// It is in the cold.
    InCold {},
    /// It comes back to room temperature.
    BackFromCold {},
}

/// The caution of a moment. What it says in words is the reader's; every one of them defers to local codes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Caution {
    /// Burns and carbon monoxide at a fire.
    Hot,
    /// Oil that flashes.
    Oil,
    /// Molten salt that spits, and burns what is damp or oily.
    Salt,
    /// Steam, and a hard crack.
    Water,
    /// Steel hard and brittle as glass.
    Brittle,
    /// Cold burns, and gas that displaces air.
    Cold,
    /// Oily smoke from an oven.
    Oven,
    /// Fumes of a coating.
    Coating,
    /// Edges of foil.
    Foil,
    /// Damp clay, and dust.
    Clay,
    /// Steel that snaps when it is bent.
    Straighten,
    /// Flame beside a hard edge.
    Torch,
    /// Steel that looks cold long before it is.
    Air,
}

/// What a confirmed action means for the blade.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Mark {
    /// Nothing lasting.
    None,
    /// The hold of the step begins.
    HoldBegins,
    /// The hold of the step ends.
    HoldEnds,
    /// It was quenched: hard and brittle from now.
    Quenched,
    /// It went into its first temper: no longer untempered.
    Tempering,
}

impl Caution {
    /// Of a bath.
    #[must_use]
    pub const fn of_bath(medium: Medium) -> Self {
        match medium {
            Medium::Brine | Medium::Water => Self::Water,
            Medium::Plates | Medium::ForcedAir | Medium::StillAir => Self::Hot,
            Medium::Salt => Self::Salt,
            _ => Self::Oil,
        }
    }
}

fn action(step: usize, kind: ActionKind, doing: Doing, caution: Caution) -> FiringAction {
    FiringAction {
        step,
        round: 0,
        kind,
        doing,
        lasts_s: None,
        caution,
        mark: Mark::None,
        together: true,
    }
}

impl FiringAction {
    const fn marked(mut self, mark: Mark) -> Self {
        self.mark = mark;
        self
    }

    const fn lasting(mut self, time_s: Option<f64>) -> Self {
        self.lasts_s = time_s;
        self
    }

    const fn alone(mut self) -> Self {
        self.together = false;
        self
    }

    const fn of_round(mut self, round: usize) -> Self {
        self.round = round;
        self
    }

    /// Out of the last bath: warm, where it is straightened next, or cold.
    pub(super) const fn leave_bath(&mut self, to_straighten: bool) {
        (self.kind, self.doing, self.caution) = if to_straighten {
            (
                ActionKind::OutWarm {},
                Doing::StraighteningWarm {},
                Caution::Straighten,
            )
        } else {
            (
                ActionKind::OutCold {},
                Doing::LookingOver {},
                Caution::Brittle,
            )
        };
    }

    /// Into another bath than was planned.
    pub(super) const fn go_into(&mut self, medium: Medium) {
        self.kind = ActionKind::IntoBath { medium };
        self.doing = Doing::Quenching { medium };
        self.caution = Caution::of_bath(medium);
    }
}

/// The actions of a heat that is left in air or in the fire to cool.
fn heat_actions(kind: StepKind, bed: Option<Bed>, i: usize, hold_s: Seconds) -> [FiringAction; 3] {
    let heat = Heat::only(kind);
    let slow = heat.kind == StepKind::Anneal;
    let slowly = match bed {
        None | Some(Bed::Furnace) => ActionKind::ShutDown {},
        Some(bed) => ActionKind::Bedded { bed },
    };
    let (at_heat, out, caution) = if slow {
        (Doing::Soaking { heat }, slowly, Caution::Hot)
    } else {
        (
            Doing::EveningOut { heat },
            ActionKind::OutToCool {},
            Caution::Air,
        )
    };
    [
        action(
            i,
            ActionKind::IntoFire {},
            Doing::Heating { heat },
            Caution::Hot,
        ),
        action(i, ActionKind::AtHeat {}, at_heat, Caution::Hot)
            .lasting(Some(hold_s.value()))
            .marked(Mark::HoldBegins),
        action(i, out, Doing::Cooling { heat }, caution).marked(Mark::HoldEnds),
    ]
}

fn clay_actions(i: usize, hold_s: Seconds) -> [FiringAction; 2] {
    [
        action(
            i,
            ActionKind::ClayOn {},
            Doing::ClayDrying {},
            Caution::Clay,
        )
        .lasting(Some(hold_s.value()))
        .marked(Mark::HoldBegins),
        action(i, ActionKind::ClayDry {}, Doing::ClayDry {}, Caution::Clay).marked(Mark::HoldEnds),
    ]
}

/// The actions of a heat that goes on into the next step: preheat, and the heat for hardening.
fn held_actions(kind: StepKind, i: usize, hold_s: Seconds) -> [FiringAction; 2] {
    let heat = Heat::only(kind);
    let (kind, doing) = match heat.kind {
        StepKind::Austenitize => (ActionKind::StartSoak {}, Doing::Soaking { heat }),
        _ => (ActionKind::Even {}, Doing::Holding { heat }),
    };
    [
        action(
            i,
            ActionKind::IntoFire {},
            Doing::Heating { heat },
            Caution::Hot,
        ),
        action(i, kind, doing, Caution::Hot)
            .lasting(Some(hold_s.value()))
            .marked(Mark::HoldBegins),
    ]
}

fn quench_actions(i: usize, stages: &[Stage]) -> Vec<FiringAction> {
    let into_bath = |(n, stage): (usize, &Stage)| {
        let medium = stage.medium;
        let (kind, doing) = (ActionKind::IntoBath { medium }, Doing::Quenching { medium });
        let mark = if n == 0 { Mark::HoldEnds } else { Mark::None };
        action(i, kind, doing, Caution::of_bath(medium))
            .lasting(stage.for_s.map(Seconds::value))
            .marked(mark)
            .alone()
            .of_round(n)
    };
    let mut all: Vec<FiringAction> = stages.iter().enumerate().map(into_bath).collect();
    let out = action(
        i,
        ActionKind::OutCold {},
        Doing::LookingOver {},
        Caution::Brittle,
    );
    all.push(out.marked(Mark::Quenched).alone());
    all
}

fn cold_actions(i: usize, hold_s: Seconds) -> [FiringAction; 2] {
    let out = action(
        i,
        ActionKind::OutOfCold {},
        Doing::BackFromCold {},
        Caution::Brittle,
    );
    [
        action(i, ActionKind::IntoCold {}, Doing::InCold {}, Caution::Cold)
            .lasting(Some(hold_s.value()))
            .marked(Mark::HoldBegins),
        out.marked(Mark::HoldEnds),
    ]
}

/// The actions of every round of a temper. The first one ends the time untempered.
fn temper_actions(i: usize, hold_s: Seconds, times: u32) -> Vec<FiringAction> {
    let round = |n: u32| {
        let heat = Heat {
            kind: StepKind::Temper,
            number: n,
            count: times,
        };
        let mark = if n == 1 { Mark::Tempering } else { Mark::None };
        let actions = [
            action(
                i,
                ActionKind::IntoOven {},
                Doing::Heating { heat },
                Caution::Oven,
            )
            .marked(mark),
            action(
                i,
                ActionKind::OvenAtHeat {},
                Doing::Holding { heat },
                Caution::Oven,
            )
            .lasting(Some(hold_s.value()))
            .marked(Mark::HoldBegins),
            action(
                i,
                ActionKind::OutToCool {},
                Doing::Cooling { heat },
                Caution::Hot,
            )
            .marked(Mark::HoldEnds),
        ];
        actions.map(|action| action.of_round(n as usize - 1))
    };
    (1..=times).flat_map(round).collect()
}

/// The actions of one step by itself, as step `i`.
pub(super) fn of_step(step: &Step, i: usize) -> Vec<FiringAction> {
    let kind = step.kind();
    match step {
        Step::Normalize { hold_s, .. }
        | Step::Refine { hold_s, .. }
        | Step::StressRelief { hold_s, .. } => heat_actions(kind, None, i, *hold_s).into(),
        Step::Anneal { hold_s, bed, .. } => heat_actions(kind, *bed, i, *hold_s).into(),
        Step::Stamp {} => vec![action(
            i,
            ActionKind::Stamped {},
            Doing::Stamped {},
            Caution::Hot,
        )],
        Step::Coat {} => vec![action(
            i,
            ActionKind::Coated {},
            Doing::Coated {},
            Caution::Coating,
        )],
        Step::Pouch {} => vec![action(
            i,
            ActionKind::PouchClosed {},
            Doing::InPouch {},
            Caution::Foil,
        )],
        Step::Clay { hold_s, .. } => clay_actions(i, *hold_s).into(),
        Step::Preheat { hold_s, .. } => held_actions(kind, i, *hold_s).into(),
        Step::Austenitize { soak_s, .. } => held_actions(kind, i, *soak_s).into(),
        Step::Straighten {} => {
            let (kind, doing) = (ActionKind::Straightened {}, Doing::Straightened {});
            vec![action(i, kind, doing, Caution::Straighten).alone()]
        }
        Step::Cool {
            temperature_c,
            hold_s,
        } => {
            let kind = ActionKind::Cooled {
                temperature_c: *temperature_c,
            };
            let hold = (hold_s.value() > 0.0).then_some(hold_s.value());
            vec![action(i, kind, Doing::Cooled {}, Caution::Air).lasting(hold)]
        }
        Step::TorchTemper { part, .. } => {
            let (kind, doing) = (
                ActionKind::Torched { part: *part },
                Doing::Torched { part: *part },
            );
            vec![action(i, kind, doing, Caution::Torch).alone()]
        }
        Step::Check { look } => {
            let doing = Doing::Looking { look: *look };
            vec![action(i, ActionKind::Looked {}, doing, Caution::Air).alone()]
        }
        Step::Quench { stages } => quench_actions(i, stages),
        Step::SubZero { hold_s, .. } => cold_actions(i, *hold_s).into(),
        Step::Temper { hold_s, times, .. } => temper_actions(i, *hold_s, *times),
    }
}

/// The actions of a plan, in order.
#[must_use]
pub fn actions(steps: &[Step]) -> Vec<FiringAction> {
    Course::planned(steps).actions()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::tests::plan;

    #[test]
    fn heats_are_counted_and_a_quench_is_done_blade_by_blade() {
        let steps = plan(
            r#"[{"kind":"normalize","temperature_c":870,"times":3},
                {"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"fast_oil"}]},
                {"kind":"straighten"},
                {"kind":"temper","temperature_c":205,"hold_s":7200,"times":1}]"#,
        );
        let actions = actions(steps.steps());
        let heat = Heat {
            kind: StepKind::Normalize,
            number: 2,
            count: 3,
        };
        assert_eq!(actions[4].doing, Doing::EveningOut { heat });
        let alone = actions.iter().filter(|b| !b.together).map(|b| b.kind);
        let into_oil = ActionKind::IntoBath {
            medium: Medium::FastOil,
        };
        let expected = [
            into_oil,
            ActionKind::OutWarm {},
            ActionKind::Straightened {},
        ];
        assert_eq!(alone.collect::<Vec<_>>(), expected);
        assert!(
            actions
                .iter()
                .any(|b| b.kind == ActionKind::StartSoak {} && b.together)
        );
    }

    #[test]
    fn hard_steel_is_brittle_and_hot_steel_is_hot() {
        let steps = plan(
            r#"[{"kind":"normalize","temperature_c":870},{"kind":"cool","temperature_c":20},
                {"kind":"check","look":"magnet"},
                {"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"fast_oil"}]},{"kind":"check","look":"cracked"},
                {"kind":"cool","temperature_c":20},{"kind":"temper","temperature_c":205,"hold_s":7200},
                {"kind":"check","look":"colour"}]"#,
        );
        let caution = |step: usize| {
            let actions = actions(steps.steps());
            actions
                .into_iter()
                .find(|b| b.step == step)
                .unwrap()
                .caution
        };
        assert_eq!([caution(1), caution(8)], [Caution::Air, Caution::Air]);
        assert_eq!(caution(2), Caution::Hot);
        assert_eq!(
            [caution(5), caution(6)],
            [Caution::Brittle, Caution::Brittle]
        );
    }
}
