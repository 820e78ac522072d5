//! A blade as it went into the fire, kept whole with its firing: whatever is written of it later, what was
//! done was done to this.

use crate::geometry::blade::Blade;
use crate::geometry::clay::ClayDraft;
use crate::material::analysis::Analysis;
use crate::material::purpose::Purpose;
use crate::material::steel::Steel;
use crate::prediction::laminate::{Layer, Role, narrowed};
use crate::process::bar::Condition;
use crate::process::calibration::Corrections;
use crate::process::plan::Stations;
use crate::process::ready::Ready;
use crate::process::workpiece::Workpiece;
use crate::quantity::validation::Faults;
use crate::record::trial::Estimate;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A steel with all that makes it known.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "of", rename_all = "snake_case", deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum SteelMade {
    /// One of the table.
    BuiltIn {
        /// Its key.
        key: String,
    },
    /// One of the shop's own.
    House {
        /// Its id.
        id: Uuid,
        /// Its name.
        name: String,
        /// Its analysis, weight percent.
        analysis: Analysis,
        /// What a coupon trial found out, when it was made by one.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        estimate: Option<Box<Estimate>>,
    },
}

/// One of the shop's own steels: as a trial found it, or by its analysis.
#[must_use]
pub fn house_steel(
    id: Uuid,
    name: &str,
    analysis: &Analysis,
    estimate: Option<&Estimate>,
) -> Steel {
    let key = id.to_string();
    match estimate {
        Some(estimate) => estimate.steel(&key, name),
        None => Steel::from_analysis(&key, name, analysis),
    }
}

impl SteelMade {
    /// Its name; the key of one that the table no longer has.
    #[must_use]
    pub fn name(&self) -> String {
        match self {
            Self::BuiltIn { key } => {
                Steel::built_in(key).map_or_else(|| key.clone(), |s| s.name.clone())
            }
            Self::House { name, .. } => name.clone(),
        }
    }

    /// The steel; None when the table no longer has it.
    #[must_use]
    pub fn steel(&self) -> Option<Steel> {
        match self {
            Self::BuiltIn { key } => Steel::built_in(key).cloned(),
            Self::House {
                id,
                name,
                analysis,
                estimate,
            } => Some(house_steel(*id, name, analysis, estimate.as_deref())),
        }
    }

    /// Its key, as predictions and records have it.
    #[must_use]
    pub fn key(&self) -> String {
        match self {
            Self::BuiltIn { key } => key.clone(),
            Self::House { id, .. } => id.to_string(),
        }
    }
}

/// A layer beside the edge.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LayerMade {
    /// What it is there for.
    pub role: Role,
    /// Its steel.
    pub steel: SteelMade,
}

/// The bar a blade was made from.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BarMade {
    /// Its id.
    pub id: Uuid,
    /// What it was called.
    pub name: String,
    /// The mill's own analysis.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub analysis: Option<Analysis>,
    /// How it came.
    #[serde(default)]
    pub condition: Condition,
    /// Layers beside the edge, for a bar of several steels.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub layers: Vec<LayerMade>,
    /// Share of its thickness that is the edge layer, 0 to 1, where that was said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub edge_share: Option<f64>,
}

/// What a blade is made of.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MadeOf {
    /// Its steel, or that of the edge.
    pub steel: SteelMade,
    /// The bar.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bar: Option<BarMade>,
}

/// What a blade is made of, as the engine takes it.
#[derive(Debug, Clone, PartialEq)]
pub struct Metal {
    /// Its steel, or that of its edge as the other layers let it be treated.
    pub steel: Steel,
    /// The edge by itself.
    pub edge: Steel,
    /// Layers beside the edge.
    pub layers: Vec<Layer>,
    /// Share of the thickness that is the edge layer, 0 to 1, where that was said.
    pub edge_share: Option<f64>,
    /// The bar.
    pub bar: Option<Uuid>,
}

impl Metal {
    /// Of one steel, from no known bar.
    #[must_use]
    pub fn plain(steel: Steel) -> Self {
        Self {
            edge: steel.clone(),
            steel,
            layers: Vec::new(),
            edge_share: None,
            bar: None,
        }
    }
}

impl MadeOf {
    /// As the engine takes it; None when the table no longer has one of its steels.
    #[must_use]
    pub fn metal(&self) -> Option<Metal> {
        let named = self.steel.steel()?;
        let Some(bar) = &self.bar else {
            return Some(Metal::plain(named));
        };
        let mut edge = match &bar.analysis {
            Some(analysis) => named.with_analysis(analysis),
            None => named,
        };
        edge.comes_as = bar.condition.structure();
        let layers = bar.layers.iter().map(|layer| {
            Some(Layer {
                role: layer.role,
                steel: layer.steel.steel()?,
            })
        });
        let layers = layers.collect::<Option<Vec<_>>>()?;
        Some(Metal {
            steel: narrowed(&edge, &layers),
            edge,
            layers,
            edge_share: bar.edge_share,
            bar: Some(bar.id),
        })
    }
}

/// A blade as it went into the fire.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Made {
    /// The mark it was known by.
    pub mark: String,
    /// Its name.
    pub name: String,
    /// Shape, sizes and grind.
    pub blade: Blade,
    /// What it is made of.
    #[serde(flatten)]
    pub material: MadeOf,
    /// What it was for.
    pub purpose: Purpose,
    /// Wanted hardness, lowest and highest, HRC.
    pub target_hrc: (f64, f64),
    /// What was known of it beyond its sizes.
    #[serde(default)]
    pub ready: Ready,
    /// The clay it went in with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub clay: Option<ClayDraft>,
    /// The stations it went to where its plan names none.
    #[serde(default)]
    pub stations: Stations,
    /// The checks of the shop's stations that were in force.
    #[serde(default)]
    pub checks: Corrections,
}

impl Made {
    /// The blade and what is around it.
    ///
    /// # Errors
    /// What was kept no longer fits the rules.
    pub fn work(&self) -> Result<Workpiece, Faults> {
        self.ready.work(&self.blade, self.clay.as_ref())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::tests::blade;

    fn house() -> SteelMade {
        SteelMade::House {
            id: Uuid::from_u128(5),
            name: "spring".to_owned(),
            analysis: Analysis {
                carbon: 0.6,
                manganese: 0.9,
                ..Analysis::default()
            },
            estimate: None,
        }
    }

    fn made(bar: Option<BarMade>) -> Made {
        Made {
            mark: "K-1".to_owned(),
            name: "Reed hook".to_owned(),
            blade: blade(),
            material: MadeOf {
                steel: house(),
                bar,
            },
            purpose: Purpose::default(),
            target_hrc: (58.0, 60.0),
            ready: Ready::default(),
            clay: None,
            stations: Stations::default(),
            checks: Corrections::default(),
        }
    }

    #[test]
    fn what_is_kept_reads_back_and_is_the_same_blade() {
        let bar = BarMade {
            id: Uuid::from_u128(9),
            name: "three layers".to_owned(),
            analysis: Some(Analysis {
                carbon: 0.58,
                ..Analysis::default()
            }),
            condition: Condition::default(),
            layers: vec![LayerMade {
                role: Role::Cladding,
                steel: SteelMade::BuiltIn {
                    key: "1084".to_owned(),
                },
            }],
            edge_share: Some(0.3),
        };
        for made in [made(None), made(Some(bar))] {
            let text = serde_json::to_string(&made).unwrap();
            let back: Made = serde_json::from_str(&text).unwrap();
            assert_eq!(back, made);
            assert_eq!(back.work().unwrap(), made.work().unwrap());
            assert_eq!(back.material.metal(), made.material.metal());
            assert!(made.material.metal().is_some());
        }
    }

    #[test]
    fn the_bar_says_what_its_steel_really_is() {
        let lean = BarMade {
            id: Uuid::from_u128(9),
            name: "lean".to_owned(),
            analysis: Some(Analysis {
                carbon: 0.5,
                ..Analysis::default()
            }),
            condition: Condition::default(),
            layers: Vec::new(),
            edge_share: None,
        };
        let metal = made(Some(lean)).material.metal().unwrap();
        assert_eq!(metal.steel.analysis.carbon, 0.5);
        assert_eq!(metal.bar, Some(Uuid::from_u128(9)));
        assert_eq!(metal.steel.key, Uuid::from_u128(5).to_string());
        let removed = SteelMade::BuiltIn {
            key: "unobtainium".to_owned(),
        };
        assert!(removed.steel().is_none());
    }
}
