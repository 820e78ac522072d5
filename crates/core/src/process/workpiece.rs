//! The blade as it goes into the fire: its form, its clay, and what is around it.

use crate::geometry::blade::Blade;
use crate::geometry::clay::Clay;
use crate::geometry::form::Form;
use crate::material::properties::DENSITY;
use crate::process::check::Answers;
use crate::process::furnace::Furnace;
use crate::process::protection::Protection;
use serde::Serialize;

/// What a plan is carried out on.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Workpiece {
    /// Outline and thickness.
    pub form: Form,
    /// Clay that is laid on.
    pub clay: Clay,
    /// Clay is painted for the blade that no step lays on: it goes in without.
    pub unlaid: bool,
    /// The fire it is hardened from.
    pub furnace: Furnace,
    /// What keeps its carbon in.
    pub protection: Protection,
    /// Blades heated together.
    pub together: u32,
    /// Coarse scratches, sharp corners, undrilled holes, holes or stamps near the edge: how many kinds of stress raiser
    /// are left, 0 to 4.
    pub raisers: u8,
    /// The checks before the fire, as answered.
    pub checks: Answers,
}

impl Workpiece {
    /// A bare blade of a preset shape, alone in a kiln.
    ///
    /// ```
    /// use vatten_core::geometry::blade::{Blade, BladeDraft};
    /// use vatten_core::process::workpiece::Workpiece;
    /// let blade = Blade::parse(&BladeDraft {
    ///     length_mm: Some(180.0),
    ///     width_mm: Some(30.0),
    ///     spine_mm: Some(4.0),
    ///     edge_mm: Some(0.8),
    ///     ..BladeDraft::default()
    /// });
    /// let work = Workpiece::plain(&blade.unwrap());
    /// assert_eq!((work.together, work.clay.is_bare()), (1, true));
    /// ```
    #[must_use]
    pub fn plain(blade: &Blade) -> Self {
        Self {
            form: Form::from_blade(blade),
            clay: Clay::default(),
            unlaid: false,
            furnace: Furnace::default(),
            protection: Protection::default(),
            together: 1,
            raisers: 0,
            checks: Answers::new(),
        }
    }

    /// What it weighs, kg, near enough to warm a fire or a bath by.
    #[must_use]
    pub fn mass_kg(&self) -> f64 {
        let blade = self.blade();
        let thickness_mm = 0.5 * (blade.spine_mm + blade.edge_mm);
        1e-9 * DENSITY * blade.length_mm * blade.width_mm * thickness_mm
    }

    /// The blade in its simple form.
    #[must_use]
    pub const fn blade(&self) -> &Blade {
        self.form.blade()
    }
}
