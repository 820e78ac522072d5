//! Bars made of several steels: what all layers bear together, and what comes of each.

use crate::material::medium::Medium;
use crate::material::steel::{Hardening, Steel, SubZero, Window};
use crate::process::plan::Plan;
use crate::process::workpiece::Workpiece;
use crate::quantity::units::{Celsius, Quantity};
use crate::quantity::validation::{Checker, Faults, Unit};
use crate::simulation::heat::{STRIP_AT, Section};
use crate::simulation::physics::{Shift, of_section, section};
use serde::{Deserialize, Serialize};

/// What a layer is there for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Role {
    /// It cuts: predicted, and what the wanted hardness is for.
    Edge,
    /// It must harden with the edge: the pattern, or the body under the cladding.
    Core,
    /// It may stay soft.
    Cladding,
}

impl Role {
    /// The name shown.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Edge => "edge",
            Self::Core => "core",
            Self::Cladding => "cladding",
        }
    }
}

/// A layer as written: its role, and a built-in steel's key or the id of one of the shop's own.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LayerDraft {
    /// What it is there for.
    pub role: Role,
    /// Its steel.
    pub steel: String,
    /// Of the edge, between the others: how thick it is in the bar, 0.1 mm to the bar's thickness; not said when left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(minimum = 0.1, maximum = 60))]
    pub thickness_mm: Option<f64>,
}

/// Thinnest edge layer of a bar, mm.
const THINNEST_MM: f64 = 0.1;

/// The share of a bar's thickness that is its edge layer, 0 to 1; none where that was not said.
///
/// # Errors
/// A fault at `layers[1].thickness_mm`: as thick as the bar and more, next to nothing, or of a layer that does not cut.
pub fn edge_share(layers: &[LayerDraft], bar_mm: f64) -> Result<Option<f64>, Faults> {
    let mut c = Checker::default();
    let mut share = None;
    for (i, layer) in layers.iter().enumerate() {
        let Some(mm) = layer.thickness_mm else {
            continue;
        };
        let field = format!("layers[{i}].thickness_mm");
        if layer.role != Role::Edge {
            c.refuse(
                field,
                "Only how thick the edge layer is tells where it ends.",
            );
        } else if (THINNEST_MM..bar_mm).contains(&mm) {
            share = Some(mm / bar_mm);
        } else {
            let message = "The edge layer lies between the others.";
            c.refuse_outside(field, message, (THINNEST_MM, bar_mm), Unit::Millimetre);
        }
    }
    c.finish(Some(share))
}

/// The edge layer in a finished blade, where it is read: forged with the bar it is as thick a share of the spine as of the
/// bar.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EdgeLayer {
    /// How thick it is, mm.
    pub thickness_mm: f64,
    /// How far above the edge the other layers begin, mm: where the blade is as thick as it. 0 where the edge is ground
    /// of them; none where they never show.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ends_mm: Option<f64>,
}

/// Heights that are looked at from edge to spine.
const HEIGHTS: usize = 400;

impl EdgeLayer {
    /// Of a blade from a bar whose edge layer is such a share of it.
    #[must_use]
    pub fn of(share: f64, work: &Workpiece) -> Self {
        let x = STRIP_AT * work.blade().length_mm;
        let (spine_mm, _) = work.form.ends_mm(x);
        let thickness_mm = share * spine_mm;
        let (edge, spine) =
            (work.form.outline().section(x)).unwrap_or((0.0, work.blade().width_mm));
        let height = spine - edge;
        let mut at = (0..=HEIGHTS).map(|i| i as f64 / HEIGHTS as f64);
        let ends = at.find(|up| work.form.thickness_mm(x, *up, height) > thickness_mm);
        Self {
            thickness_mm,
            ends_mm: ends.map(|up| up * height),
        }
    }
}

/// Most kinds of layer in one bar.
pub const MAX_LAYERS: usize = 6;

/// A kind of layer beside the edge.
#[derive(Debug, Clone, PartialEq)]
pub struct Layer {
    /// What it is there for.
    pub role: Role,
    /// Its steel.
    pub steel: Steel,
}

/// Checks the layers of a bar: none, or two to six of them with exactly one edge. Gives the place of
/// the edge.
///
/// # Errors
/// Faults at `layers`.
pub fn edge_of(layers: &[LayerDraft]) -> Result<Option<usize>, Faults> {
    if layers.is_empty() {
        return Ok(None);
    }
    let mut c = Checker::default();
    if layers.len() < 2 || layers.len() > MAX_LAYERS {
        c.refuse_allowing(
            "layers",
            format!("{} kinds of layer are not possible.", layers.len()),
            format!("2 to {MAX_LAYERS}, or none for a bar of one steel"),
        );
    }
    let edges: Vec<usize> = (0..layers.len())
        .filter(|i| layers[*i].role == Role::Edge)
        .collect();
    if edges.len() != 1 {
        c.refuse_allowing(
            "layers",
            if edges.is_empty() {
                "No layer cuts."
            } else {
                "More than one steel is said to cut."
            },
            "exactly one edge; the rest core or cladding",
        );
    }
    c.finish(edges.first().map(|i| Some(*i)))
}

/// What the layers of a bar bear together.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Meeting {
    /// Austenitizing that suits every layer, °C: lowest and highest; none when their windows do not meet.
    pub austenitize_c: Option<[f64; 2]>,
    /// Media that suit every layer, best first.
    pub media: Vec<Medium>,
    /// What stands in the way; empty when all meet.
    pub conflicts: Vec<Conflict>,
}

/// What keeps steels of one bar from being hardened together. Steels by their names.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Conflict {
    /// One wants a hotter heat than another bears.
    Windows {
        /// Wants at least `low_c`.
        wants: String,
        /// Its least heat, °C.
        low_c: f64,
        /// Bears at most `high_c`.
        bears: String,
        /// Its most, °C.
        high_c: f64,
        /// The grain of the second grows coarse at the least heat of the first; else the first dissolves too
        /// little between them and the second keeps too much austenite.
        coarse: bool,
    },
    /// One cracks in a medium that the edge would take.
    Cracks {
        /// The one that cracks.
        steel: String,
        /// The medium.
        medium: Medium,
        /// The edge.
        edge: String,
    },
    /// One stays soft in what hardens the edge.
    StaysSoft {
        /// The one that stays soft.
        steel: String,
        /// The edge.
        edge: String,
    },
    /// No bath suits all of them.
    NoBath {
        /// The edge.
        edge: String,
    },
}

fn hardens(layer: &Layer) -> bool {
    layer.role != Role::Cladding || layer.steel.hardening != Hardening::NotHardenable
}

/// Where all layers meet: the windows of those that harden, and baths none of them cracks in.
#[must_use]
pub fn meet(edge: &Steel, others: &[Layer]) -> Meeting {
    let mut low = (edge.austenitize.low.value(), edge.name.as_str());
    let mut high = (edge.austenitize.high.value(), edge.name.as_str());
    let mut conflicts = Vec::new();
    for layer in others.iter().filter(|l| hardens(l)) {
        let w = layer.steel.austenitize;
        // A cladding may stay soft: it only must not be overheated.
        if layer.role == Role::Core && w.low.value() > low.0 {
            low = (w.low.value(), &layer.steel.name);
        }
        let most = if layer.role == Role::Core {
            w.high.value()
        } else {
            w.high.value().max(layer.steel.coarsening_c - 20.0)
        };
        if most < high.0 {
            high = (most, &layer.steel.name);
        }
    }
    let window = (low.0 <= high.0).then_some([low.0.round(), high.0.round()]);
    if window.is_none() {
        let hot = others
            .iter()
            .map(|l| &l.steel)
            .chain([edge])
            .find(|s| s.name == high.1);
        conflicts.push(Conflict::Windows {
            wants: low.1.to_owned(),
            low_c: low.0,
            bears: high.1.to_owned(),
            high_c: high.0,
            coarse: hot.is_some_and(|s| low.0 > s.coarsening_c),
        });
    }
    let bears = |steel: &Steel, medium: Medium| {
        !medium.is_water()
            || steel.hardening == Hardening::NotHardenable
            || steel.hardening == Hardening::Water
            || steel.media.iter().any(|m| m.is_water())
    };
    let media: Vec<Medium> = edge
        .media
        .iter()
        .copied()
        .filter(|m| others.iter().all(|l| bears(&l.steel, *m)))
        .collect();
    for layer in others {
        for medium in edge.media.iter().filter(|m| !bears(&layer.steel, **m)) {
            conflicts.push(Conflict::Cracks {
                steel: layer.steel.name.clone(),
                medium: *medium,
                edge: edge.name.clone(),
            });
        }
        if layer.role == Role::Core
            && layer.steel.hardening == Hardening::Water
            && edge.hardening == Hardening::Air
        {
            conflicts.push(Conflict::StaysSoft {
                steel: layer.steel.name.clone(),
                edge: edge.name.clone(),
            });
        }
    }
    if media.is_empty() {
        let edge = edge.name.clone();
        conflicts.push(Conflict::NoBath { edge });
    }
    Meeting {
        austenitize_c: window,
        media,
        conflicts,
    }
}

/// The edge steel as it must be treated in this company: its window and baths narrowed to what all
/// layers bear. Where they do not meet, the edge decides.
#[must_use]
pub fn narrowed(edge: &Steel, others: &[Layer]) -> Steel {
    let met = meet(edge, others);
    let mut steel = edge.clone();
    if let Some([low, high]) = met.austenitize_c {
        let nominal = edge.austenitize.nominal.value().clamp(low, high);
        steel.austenitize = Window {
            low: Celsius::clamped(low),
            nominal: Celsius::clamped(nominal),
            high: Celsius::clamped(high),
        };
    }
    if !met.media.is_empty() {
        steel.media = met.media;
    }
    for layer in others.iter().filter(|l| hardens(l)) {
        steel.coarsening_c = steel.coarsening_c.min(layer.steel.coarsening_c);
        if layer.steel.normalize.is_none() {
            steel.normalize = None;
        }
        if layer.steel.hardening == Hardening::Oil && steel.hardening == Hardening::Water {
            steel.hardening = Hardening::Oil;
            steel.water_then_oil = false;
        }
        if layer.role == Role::Core && layer.steel.sub_zero == SubZero::Yes {
            steel.sub_zero = SubZero::Yes;
        }
        if layer.steel.soak.value() > steel.soak.value() && layer.role == Role::Core {
            steel.soak = layer.steel.soak;
        }
    }
    steel
}

/// What comes of one layer.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LayerOutcome {
    /// What it is there for.
    pub role: Role,
    /// Its steel.
    pub steel_name: String,
    /// Hardness as quenched, HRC.
    pub as_quenched_hrc: f64,
    /// Hardness after the last temper, HRC.
    pub tempered_hrc: f64,
    /// It ends hard.
    #[serde(default)]
    pub hard: bool,
}

/// What comes of every layer beside the edge, by physics alone.
#[must_use]
pub fn layers(plan: &Plan, others: &[Layer], work: &Workpiece) -> Vec<LayerOutcome> {
    others
        .iter()
        .map(|layer| {
            let found: Section = section(plan, &layer.steel, work);
            let p = of_section(plan, &layer.steel, &found, Shift::default());
            let hard = p.martensite_at_reading >= 0.5 && p.tempered_hrc > 45.0;
            LayerOutcome {
                role: layer.role,
                steel_name: layer.steel.name.clone(),
                as_quenched_hrc: p.as_quenched_hrc,
                tempered_hrc: p.tempered_hrc,
                hard,
            }
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::tests::{blade, nominal};
    use rstest::rstest;

    fn steel(name: &str) -> &'static Steel {
        Steel::built_in(name).unwrap()
    }

    fn layer(role: Role, name: &str) -> Layer {
        Layer {
            role,
            steel: steel(name).clone(),
        }
    }

    #[test]
    fn like_steels_meet_and_the_edge_is_treated_for_both() {
        let others = [layer(Role::Core, "15n20")];
        let met = meet(steel("1084"), &others);
        let [low, high] = met.austenitize_c.unwrap();
        assert!(low <= high && met.conflicts.is_empty(), "{met:?}");
        let narrow = narrowed(steel("1084"), &others);
        assert!(narrow.austenitize.low.value() >= low - 0.5);
        assert!(narrow.austenitize.high.value() <= high + 0.5);
        assert_eq!(narrow.key, "1084");
    }

    #[test]
    fn stainless_and_carbon_do_not_meet_and_it_says_why() {
        let met = meet(steel("x65cr13"), &[layer(Role::Core, "1084")]);
        assert_eq!(met.austenitize_c, None);
        assert!(
            matches!(&met.conflicts[0], Conflict::Windows { bears, .. } if bears == "1084"),
            "{:?}",
            met.conflicts
        );
        assert!(met.austenitize_c.is_none());
        let kept = narrowed(steel("x65cr13"), &[layer(Role::Core, "1084")]);
        assert_eq!(kept.austenitize, steel("x65cr13").austenitize);
    }

    #[test]
    fn soft_cladding_narrows_nothing() {
        let met = meet(steel("1095"), &[layer(Role::Cladding, "1018")]);
        let own = steel("1095").austenitize;
        assert_eq!(
            met.austenitize_c,
            Some([own.low.value().round(), own.high.value().round()])
        );
        assert!(met.conflicts.is_empty(), "{met:?}");
        assert_eq!(met.media, steel("1095").media);
    }

    #[test]
    fn an_oil_steel_keeps_the_edge_out_of_the_water() {
        let others = [layer(Role::Core, "o1")];
        let met = meet(steel("w2"), &others);
        assert!(met.media.iter().all(|m| !m.is_water()), "{met:?}");
        assert!(
            met.conflicts
                .iter()
                .any(|c| matches!(c, Conflict::Cracks { .. }))
        );
        assert!(
            narrowed(steel("w2"), &others)
                .media
                .iter()
                .all(|m| !m.is_water())
        );
    }

    #[test]
    fn every_layer_is_told() {
        let plan = nominal(steel("1084"), "fast_oil");
        let work = Workpiece::plain(&blade());
        let all = [layer(Role::Core, "15n20"), layer(Role::Cladding, "1018")];
        let found = layers(&plan, &all, &work);
        assert_eq!(found.len(), 2);
        assert!(found[0].as_quenched_hrc > 55.0, "{found:?}");
        assert!(!found[1].hard, "{found:?}");
    }

    #[test]
    fn the_edge_layer_ends_where_the_blade_is_as_thick_as_it() {
        // A flat grind from 0.8 at the edge to 4 mm: in closed form.
        let flat = blade();
        let work = Workpiece::plain(&flat);
        let of = |share: f64| EdgeLayer::of(share, &work);
        let third = of(0.4);
        assert!((third.thickness_mm - 1.6).abs() < 1e-9);
        let (low, high) = work
            .form
            .outline()
            .section(STRIP_AT * flat.length_mm)
            .unwrap();
        let closed = (1.6 - 0.8) / (4.0 - 0.8) * (high - low);
        assert!((third.ends_mm.unwrap() - closed).abs() < 0.1, "{third:?}");
        // Thinner than the edge was ground: the edge is of the others.
        assert_eq!(of(0.1).ends_mm, Some(0.0));
        assert_eq!(of(1.0).ends_mm, None);
    }

    #[test]
    fn how_thick_the_edge_layer_is_is_checked_against_the_bar() {
        let layers = |mm: [Option<f64>; 2]| {
            [Role::Edge, Role::Cladding]
                .into_iter()
                .zip(mm)
                .map(|(role, thickness_mm)| LayerDraft {
                    role,
                    steel: "1084".to_owned(),
                    thickness_mm,
                })
                .collect::<Vec<_>>()
        };
        assert_eq!(edge_share(&layers([None, None]), 6.0), Ok(None));
        assert_eq!(edge_share(&layers([Some(1.5), None]), 6.0), Ok(Some(0.25)));
        for (mm, field) in [
            ([Some(6.0), None], "layers[0].thickness_mm"),
            ([Some(f64::NAN), None], "layers[0].thickness_mm"),
            ([None, Some(1.0)], "layers[1].thickness_mm"),
        ] {
            let faults = edge_share(&layers(mm), 6.0).unwrap_err();
            assert_eq!(faults.0[0].field, field);
        }
    }

    #[rstest]
    #[case(&[], true)]
    #[case(&[Role::Edge], false)]
    #[case(&[Role::Edge, Role::Edge], false)]
    #[case(&[Role::Core, Role::Cladding], false)]
    #[case(&[Role::Edge, Role::Core, Role::Cladding], true)]
    #[case(&[Role::Edge, Role::Core, Role::Core, Role::Core, Role::Core, Role::Core, Role::Core], false)]
    fn exactly_one_layer_cuts(#[case] roles: &[Role], #[case] good: bool) {
        let drafts: Vec<LayerDraft> = roles
            .iter()
            .map(|role| LayerDraft {
                role: *role,
                steel: "1084".to_owned(),
                thickness_mm: None,
            })
            .collect();
        let found = edge_of(&drafts);
        assert_eq!(found.is_ok(), good, "{found:?}");
    }
}
