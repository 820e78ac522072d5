//! Grain size numbers. (How grain grows and is refined comes with the engine.)

/// ASTM grain size number of a mean intercept, mm (must be above zero). ASTM E112:
/// G = −6.643856·log10(ℓ) − 3.288.
#[must_use]
pub fn astm_number(intercept_mm: f64) -> f64 {
    -6.643_856 * intercept_mm.max(1e-6).log10() - 3.288
}

#[cfg(test)]
mod tests {
    #[test]
    fn finer_grain_has_the_higher_number() {
        assert!(super::astm_number(0.007) > super::astm_number(0.030));
        assert!(super::astm_number(0.0).is_finite());
    }
}
