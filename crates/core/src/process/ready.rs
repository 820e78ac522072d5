//! A blade made ready for the fire: what is known of it beyond its plain sizes.

use crate::geometry::blade::{Blade, Grind};
use crate::geometry::clay::{Clay, ClayDraft};
use crate::geometry::form::{Bevel, Form, Thickness};
use crate::geometry::outline::{Outline, OutlineDraft};
use crate::process::check::{Answers, raisers};
use crate::process::furnace::Furnace;
use crate::process::protection::Protection;
use crate::process::workpiece::Workpiece;
use crate::quantity::validation::{Checker, Faults};
use serde::{Deserialize, Serialize};

/// When the bevels are ground.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Order {
    /// Before hardening, finished after: less work in hard steel.
    #[default]
    GrindFirst,
    /// Hardened as a flat bar and ground after: straighter, no thin edge in the fire.
    HardenFirst,
}

/// Everything known of a blade beyond its plain sizes; each has a default.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ready {
    /// Its own outline instead of the preset's.
    pub outline: Option<OutlineDraft>,
    /// Thickness along it, where it changes, at most 60 places.
    pub taper: Vec<Thickness>,
    /// Bevel heights along it, at most 60 places; up to the spine when left out.
    pub bevels: Vec<Bevel>,
    /// What keeps its carbon in.
    pub protection: Protection,
    /// Other blades heated with it, 0 to 49.
    pub beside: u32,
    /// When it is ground.
    pub order: Order,
    /// The checks before the fire.
    pub checks: Answers,
}

/// Most blades in one fire.
pub const MAX_TOGETHER: u32 = 50;

impl Ready {
    /// The blade as it goes into the fire: a flat bar when it is ground after hardening.
    #[must_use]
    pub fn in_the_fire(&self, blade: &Blade) -> Blade {
        match self.order {
            Order::GrindFirst => *blade,
            Order::HardenFirst => Blade {
                edge_mm: blade.spine_mm,
                grind: Grind::None,
                ..*blade
            },
        }
    }

    /// Its form in the fire.
    ///
    /// # Errors
    /// Faults at `outline`, `taper[i].…`, `bevels[i].…`.
    pub fn form(&self, blade: &Blade) -> Result<Form, Faults> {
        let mut c = Checker::default();
        let outline = match &self.outline {
            Some(draft) => c.take(Outline::read(draft)),
            None => Some(Outline::trusted(blade.outline())),
        };
        let fire = self.in_the_fire(blade);
        let taper: Vec<Thickness> = match self.order {
            Order::GrindFirst => self.taper.clone(),
            Order::HardenFirst => self
                .taper
                .iter()
                .map(|t| Thickness {
                    edge_mm: t.spine_mm,
                    ..*t
                })
                .collect(),
        };
        let form = match outline {
            Some(outline) => c.take(Form::parse(&fire, Some(outline), &taper, &self.bevels)),
            None => {
                c.take(Form::parse(&fire, None, &taper, &self.bevels));
                None
            }
        };
        c.finish(form)
    }

    /// The blade with what is around it, in a kiln.
    ///
    /// # Errors
    /// As [`Ready::form`]; faults at `beside` and `clay.…`.
    pub fn work(&self, blade: &Blade, clay: Option<&ClayDraft>) -> Result<Workpiece, Faults> {
        let mut c = Checker::default();
        let form = c.take(self.form(blade));
        let clay = match clay {
            Some(draft) => c.take(Clay::parse(draft).map_err(|f| f.under("clay"))),
            None => Some(Clay::default()),
        };
        if self.beside >= MAX_TOGETHER {
            c.refuse_allowing(
                "beside",
                format!("{} blades beside it is not possible.", self.beside),
                "0 to 49",
            );
        }
        let parts = form.zip(clay).map(|(form, clay)| Workpiece {
            form,
            clay,
            furnace: Furnace::default(),
            protection: self.protection,
            together: self.beside + 1,
            raisers: raisers(&self.checks),
            unlaid: false,
            checks: self.checks.clone(),
        });
        c.finish(parts)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::process::check::Check;
    use crate::simulation::physics::tests::blade;
    use rstest::rstest;

    #[test]
    fn a_plain_blade_is_ready_as_it_is() {
        let work = Ready::default().work(&blade(), None).unwrap();
        assert_eq!(work, Workpiece::plain(&blade()));
    }

    #[test]
    fn hardened_first_it_goes_in_as_a_bar() {
        let ready = Ready {
            order: Order::HardenFirst,
            taper: vec![Thickness {
                x_mm: 0.0,
                spine_mm: 3.5,
                edge_mm: 0.7,
            }],
            ..Ready::default()
        };
        let form = ready.form(&blade()).unwrap();
        assert_eq!(form.thickness_mm(60.0, 0.0, 30.0), 3.5);
        assert_eq!(form.blade().grind, Grind::None);
    }

    #[rstest]
    #[case(r#"{"beside":80}"#, "beside")]
    #[case(
        r#"{"taper":[{"x_mm":0,"spine_mm":40,"edge_mm":1}]}"#,
        "taper[0].spine_mm"
    )]
    #[case(
        r#"{"bevels":[{"x_mm":0,"left_mm":-2,"right_mm":4}]}"#,
        "bevels[0].left_mm"
    )]
    #[case(
        r#"{"bevels":[{"x_mm":9,"left_mm":2,"right_mm":4},{"x_mm":3,"left_mm":2,"right_mm":4}]}"#,
        "bevels[1].x_mm"
    )]
    #[case(r#"{"outline":[[0,0],[1,1]]}"#, "outline")]
    fn bad_numbers_name_their_field(#[case] json: &str, #[case] field: &str) {
        let ready: Ready = serde_json::from_str(json).unwrap();
        let faults = ready.work(&blade(), None).unwrap_err();
        assert_eq!(faults.0[0].field, field, "{faults}");
    }

    #[test]
    fn what_is_stored_reads_back() {
        let ready = Ready {
            outline: Some(OutlineDraft::Points(vec![
                [0.0, 0.0],
                [0.0, 30.0],
                [180.0, 30.0],
                [180.0, 2.5],
            ])),
            beside: 2,
            checks: [(Check::Degreased, true)].into(),
            protection: Protection::Foil,
            ..Ready::default()
        };
        let text = serde_json::to_string(&ready).unwrap();
        assert_eq!(serde_json::from_str::<Ready>(&text).unwrap(), ready);
        assert!(serde_json::from_str::<Ready>("{}").unwrap() == Ready::default());
    }
}
