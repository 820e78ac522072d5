//! What physics says of one plan on one blade, without any record: heat, transformation, hardness, hamon, bend,
//! grain, lost carbon, what speaks for a crack.

pub mod coupon;
pub mod crack;
pub mod decarburization;
pub mod grain;
pub mod hamon;
pub mod heat;
pub mod map;
pub mod physics;
pub mod probe;
pub mod quench;
pub mod simulated;
pub mod straightening;
pub mod transformation;
pub mod warp;
