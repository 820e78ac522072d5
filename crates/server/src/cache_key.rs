//! What cached results depend on, each as a struct: its hash is their key.

use crate::cache::Content;
use serde::Serialize;
use sha2::{Digest, Sha256};
use std::io;
use uuid::Uuid;
use vatten_core::material::steel::Steel;
use vatten_core::process::operator::Operator;
use vatten_core::process::step::Step;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::quantity::units::Seconds;
use vatten_core::record::finding::Finding;
use vatten_core::simulation::simulated::ENGINE;

/// What physics of a blade as it went through the fire depends on.
#[derive(Debug, Serialize)]
pub struct TreatmentKey<'a> {
    /// Steps at real temperatures.
    pub steps: &'a [Step],
    /// How long it lay hard and untempered.
    pub untempered_s: Option<Seconds>,
    /// Its steel, with all that a bar or other layers change of it.
    pub steel: &'a Steel,
    /// The blade and what is around it.
    pub work: &'a Workpiece,
}

/// What a simulated quench depends on, learned corrections aside.
#[derive(Debug, Clone, Serialize)]
pub struct QuenchKey<'a> {
    /// Steps up to the last quench, at real temperatures.
    pub steps: &'a [Step],
    /// Its steel, with all that a bar or other layers change of it.
    pub steel: &'a Steel,
    /// The blade and what is around it.
    pub work: &'a Workpiece,
    /// Size of a cell, mm.
    pub step_mm: f64,
    /// What the corrections were learned from.
    pub biases: &'a Content,
}

/// What the outcomes of a blade depend on.
#[derive(Debug, Serialize)]
pub struct OutcomesKey<'a> {
    /// The quench.
    pub quench: QuenchKey<'a>,
    /// How long it lies hard and untempered, h.
    pub untempered_h: f64,
}

/// What the maps of a quench depend on.
#[derive(Debug, Serialize)]
pub struct MapsKey<'a> {
    /// The quench.
    pub quench: QuenchKey<'a>,
    /// Places whose history is shown, mm.
    pub points: &'a [[f64; 2]],
}

/// What was learned of outcomes other than hardness depends on.
#[derive(Debug, Serialize)]
pub struct BiasesKey<'a> {
    /// Who is taken to quench the next blade.
    pub operator: Option<&'a Operator>,
    /// What was found, each with its treatment and who did it.
    pub findings: Vec<(Content, Option<&'a Operator>, &'a Finding)>,
}

/// Hash of a key and of the engine that results come from.
#[must_use]
pub fn hash(key: &impl Serialize) -> Content {
    struct Hasher(Sha256);
    impl io::Write for Hasher {
        fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
            self.0.update(bytes);
            Ok(bytes.len())
        }
        fn flush(&mut self) -> io::Result<()> {
            Ok(())
        }
    }
    let mut hasher = Hasher(Sha256::new());
    if serde_json::to_writer(&mut hasher, &(ENGINE, key)).is_err() {
        // A key that cannot be written is equal to no other.
        hasher.0.update(Uuid::now_v7().as_bytes());
    }
    hasher.0.finalize().into()
}
