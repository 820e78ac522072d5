//! What a piece of steel without a paper was.

use crate::quantity::validation::Faults;
use serde::{Deserialize, Serialize};
use strum::VariantArray;

/// What a piece of old steel was.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Hash,
    Serialize,
    Deserialize,
    strum::EnumString,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Salvage {
    /// A file or rasp.
    File,
    /// A leaf spring.
    LeafSpring,
    /// A coil spring or torsion bar.
    CoilSpring,
    /// A ring of a rolling bearing.
    BearingRing,
    /// The plate of a saw.
    SawPlate,
    /// The iron of a plane, or a chisel.
    PlaneIron,
    /// An axle or shaft.
    Axle,
    /// A rail.
    Rail,
    /// A bar nobody knows anything of.
    UnknownBar,
}

impl Salvage {
    /// Reads an identifier.
    ///
    /// # Errors
    /// A fault at `was`.
    pub fn parse(text: &str) -> Result<Self, Faults> {
        text.parse().map_err(|_| {
            let all: Vec<&str> = Self::VARIANTS.iter().map(<&str>::from).collect();
            Faults::with_allowed("was", "No such old thing is known.", all.join(", "))
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_reads_back_what_it_writes() {
        for was in Salvage::VARIANTS {
            assert_eq!(Salvage::parse(<&str>::from(*was)), Ok(*was));
        }
        let fault = Salvage::parse("boat").unwrap_err().0.remove(0);
        assert_eq!(fault.field, "was");
        assert!(fault.allowed.is_some_and(|a| a.contains("unknown_bar")));
    }
}
