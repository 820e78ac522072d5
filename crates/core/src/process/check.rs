//! The checks before the fire: what is asked of the blade, and what was answered.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// One thing to look at before the fire.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, strum::VariantArray,
)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Check {
    /// Every hole is drilled and its rim broken.
    HolesDrilled,
    /// The mark is stamped.
    MarkStamped,
    /// Holes and stamps lie clear of the edge.
    ClearOfEdge,
    /// Sharp inside corners and rims are chamfered.
    CornersChamfered,
    /// Coarse scratches are sanded out.
    ScratchesOut,
    /// The centre line is scribed.
    CentreScribed,
    /// Bevels and plunge lines match left and right.
    BevelsMatch,
    /// The edge is left thick enough to survive the fire.
    EdgeLeftThick,
    /// Grease is off.
    Degreased,
    /// It lies edge up in the fire, or hangs.
    LiesEdgeUp,
    /// It goes into the bath upright, and is moved along its edge only.
    GoesInUpright,
}

impl Check {
    /// Every check, in the order a smith goes over the blade.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// Left undone, it raises the stress where a crack starts.
    #[must_use]
    pub const fn is_raiser(self) -> bool {
        matches!(
            self,
            Self::HolesDrilled | Self::ClearOfEdge | Self::CornersChamfered | Self::ScratchesOut
        )
    }
}

/// What the smith said: done or not; a check that is missing was not looked at.
pub type Answers = BTreeMap<Check, bool>;

/// Kinds of stress raiser known to be left, 0 to 4.
#[must_use]
pub fn raisers(answers: &Answers) -> u8 {
    let left = answers.iter().filter(|(c, done)| c.is_raiser() && !**done);
    u8::try_from(left.count()).unwrap_or(4)
}
