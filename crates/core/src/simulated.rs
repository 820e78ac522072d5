//! What the engine alone, without any record, says of the quench of a whole blade: what findings are held
//! against. Small enough to be kept with a firing.

use crate::crack::Causes;
use crate::grain;
use crate::hamon::{Column, Course, Hamon, Line, Moved, columns, line_of};
use crate::heat::Heat;
use crate::outcome::{causes, evenly_and_not};
use crate::physics::stages;
use crate::plan::Plan;
use crate::quench::{Quenched, Stopped};
use crate::steel::Steel;
use crate::work::Work;
use serde::{Deserialize, Serialize};
use std::sync::atomic::AtomicBool;

/// Goes up when the engine says something else of the same quench: what was kept before is asked anew.
pub const ENGINE: i32 = 1;
/// Cells of every quench whose numbers are shown or learned from, mm: one blade and plan have one line,
/// whatever view it is read in.
pub const STEP_MM: f64 = 2.0;

/// What the engine says of a quench.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Simulated {
    /// Each column from edge to spine, heel to tip.
    pub columns: Vec<Column>,
    /// Sag towards the spine, mm.
    pub sori_mm: f64,
    /// Sag sideways that clay differing from face to face gives, mm.
    pub side_mm: f64,
    /// Sag sideways for each 10 % more cooling on one face, mm.
    pub side_per_ten_percent_mm: f64,
    /// ASTM grain size number.
    pub grain_astm: f64,
    /// What speaks for a crack.
    pub crack_causes: Causes,
}

impl Simulated {
    /// From an even quench, and one with a face cooled a tenth more.
    #[must_use]
    pub fn of(
        work: &Work,
        plan: &Plan,
        steel: &Steel,
        heat: &Heat,
        (even, uneven): (&Quenched, &Quenched),
    ) -> Self {
        let bend = even.bend.as_ref();
        let per_ten = match (&even.bend, &uneven.bend) {
            (Some(even), Some(uneven)) => (uneven.side_mm - even.side_mm).abs(),
            _ => 0.0,
        };
        Self {
            columns: columns(even, work.blade().length_mm),
            sori_mm: bend.map_or(0.0, |b| b.sori_mm),
            side_mm: bend.map_or(0.0, |b| b.side_mm),
            side_per_ten_percent_mm: per_ten,
            grain_astm: grain::astm_number(heat.grain_um * 1e-3),
            crack_causes: causes(work, plan, steel, heat, even),
        }
    }

    /// The line that the engine alone shows.
    #[must_use]
    pub fn line(&self) -> Option<Line> {
        match line_of(&self.columns, Moved::default()) {
            Hamon::Line(line) => Some(line),
            Hamon::None { .. } => None,
        }
    }

    /// Height of the line as a share of the section where the engine shows none: 1 where most of the blade
    /// hardens through, 0 where most of it stays soft.
    #[must_use]
    pub fn share_without_line(&self) -> f64 {
        let is = |of: Course| self.columns.iter().filter(|c| c.course == of).count();
        if is(Course::Through) >= is(Course::Soft) {
            1.0
        } else {
            0.0
        }
    }

    /// From edge to spine at a place, mm; beyond the columns that of the nearest.
    #[must_use]
    pub fn section_mm(&self, x_mm: f64) -> Option<f64> {
        let nearest = |c: &&Column| (c.x_mm - x_mm).abs();
        self.columns
            .iter()
            .min_by(|a, b| nearest(a).total_cmp(&nearest(b)))
            .map(|c| c.section_mm)
    }
}

/// Asks the engine of a plan with cells of [`STEP_MM`], on two cores.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn simulated(
    work: &Work,
    plan: &Plan,
    steel: &Steel,
    stop: Option<&AtomicBool>,
) -> Result<Simulated, Stopped> {
    let heat = Heat::of(plan, steel, 0.0);
    let baths = stages(plan);
    let setup = heat.whole(&work.form, &work.clay, &baths, STEP_MM);
    let (even, uneven) = evenly_and_not(setup, stop)?;
    Ok(Simulated::of(work, plan, steel, &heat, (&even, &uneven)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::outcome::{Habits, outcomes};
    use crate::physics::tests::{blade, nominal};

    #[test]
    fn it_is_what_a_prediction_without_records_is_made_of_and_survives_being_kept() {
        let steel = Steel::built_in("w2").unwrap();
        let plan = nominal(steel, "water");
        let work = Work::plain(&blade());
        let alone = simulated(&work, &plan, steel, None).unwrap();
        let whole = outcomes(&work, &plan, steel, &Habits::default(), STEP_MM, None);
        let whole = whole.unwrap().0;
        let line = whole.hamon.line().unwrap();
        let heights = |l: &Line| l.points.iter().map(|p| p.height_mm).collect::<Vec<_>>();
        assert!(heights(&alone.line().unwrap()) == heights(line));
        assert_eq!(alone.grain_astm, whole.grain_astm);
        assert_eq!(alone.crack_causes, whole.crack_causes);
        assert_eq!(
            alone.side_per_ten_percent_mm,
            whole.bend.side_mm_per_10_percent
        );
        let text = serde_json::to_string(&alone).unwrap();
        assert!(text.len() < 16_000, "{}", text.len());
        let back: Simulated = serde_json::from_str(&text).unwrap();
        assert_eq!(back.line().unwrap().height_mm, line.height_mm);
        assert!((back.section_mm(90.0).unwrap() - 30.0).abs() < 1.0);
    }
}
