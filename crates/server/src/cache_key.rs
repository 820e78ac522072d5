//! What cached results depend on, each as a struct: its hash is their key.

use crate::cache::Content;
use serde::Serialize;
use sha2::{Digest, Sha256};
use std::io;
use uuid::Uuid;
use vatten_core::material::reclaimed::Measured;
use vatten_core::material::salvage::Salvage;
use vatten_core::material::steel::Steel;
use vatten_core::process::eye::Eye;
use vatten_core::process::operator::Operator;
use vatten_core::process::step::Step;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::quantity::units::Celsius;
use vatten_core::quantity::units::Seconds;
use vatten_core::record::finding::Finding;
use vatten_core::record::trial::Entry;
use vatten_core::simulation::simulated::ENGINE;
use vatten_core::simulation::straightening::PlannedClamp;

/// What physics of a blade as it went through the fire depends on.
#[derive(Debug, Serialize)]
pub struct TreatmentKey<'a> {
    /// How far its heat is known where it goes by more than its middle, one standard deviation, K.
    pub heat_spread_k: f64,
    /// Steps at real temperatures.
    pub steps: &'a [Step],
    /// How long it lay hard and untempered.
    pub untempered_s: Option<Seconds>,
    /// Its steel, with all that a bar or other layers change of it.
    pub steel: &'a Steel,
    /// The blade and what is around it.
    pub work: &'a Workpiece,
}

/// What the hardness of a blade depends on, of each analysis that its steel may have.
#[derive(Debug, Serialize)]
pub struct OfEachKey<'a> {
    /// What the steel was.
    pub was: Salvage,
    /// Steps at real temperatures.
    pub steps: &'a [Step],
    /// How long it lay hard and untempered.
    pub untempered_s: Option<Seconds>,
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
    /// Heat and hold of the first temper, °C and h, which say what a clamp in it takes out.
    pub first_temper: Option<(Celsius, f64)>,
    /// What the plan clamps in a temper.
    pub clamp: Option<PlannedClamp>,
    /// How far its heat is known.
    pub heat_spread_k: f64,
}

/// What was learned of outcomes other than hardness depends on.
#[derive(Debug, Serialize)]
pub struct BiasesKey<'a> {
    /// Who is taken to quench the next blade.
    pub operator: Option<&'a Operator>,
    /// What was found, each with its treatment and who did it.
    pub findings: Vec<(Content, Option<&'a Operator>, &'a Finding)>,
}

/// What is believed of a piece without a paper depends on.
#[derive(Debug, Serialize)]
pub struct BeliefKey<'a> {
    /// What it was.
    pub was: Salvage,
    /// What was measured of it.
    pub measured: &'a Measured,
    /// How thick its coupons are, mm.
    pub thickness_mm: f64,
    /// What was done and seen.
    pub entries: &'a [Entry],
    /// The eyes that judged their heats.
    pub eyes: Vec<Eye>,
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

#[cfg(test)]
mod tests {
    use super::*;
    use vatten_core::geometry::blade::{Blade, BladeDraft};
    use vatten_core::geometry::clay::{Clay, ClayDraft};
    use vatten_core::process::check::Check;
    use vatten_core::process::furnace::Furnace;
    use vatten_core::process::plan::Plan;
    use vatten_core::process::protection::Protection;

    fn work() -> Workpiece {
        let draft = BladeDraft {
            length_mm: Some(180.0),
            width_mm: Some(30.0),
            spine_mm: Some(4.0),
            edge_mm: Some(0.8),
            ..BladeDraft::default()
        };
        Workpiece::plain(&Blade::parse(&draft).unwrap())
    }

    fn plan(hold_s: u32) -> Plan {
        let json = format!(
            r#"[{{"kind":"austenitize","temperature_c":815,"soak_s":{hold_s}}},
                {{"kind":"quench","stages":[{{"medium":"fast_oil"}}]}}]"#
        );
        Plan::parse(&serde_json::from_str::<Vec<_>>(&json).unwrap()).unwrap()
    }

    fn key(plan: &Plan, steel: &Steel, work: &Workpiece) -> Content {
        hash(&TreatmentKey {
            heat_spread_k: 0.0,
            steps: plan.real_steps(),
            untempered_s: plan.untempered(),
            steel,
            work,
        })
    }

    /// Whatever is left out of what is written would give one blade the results of another.
    #[test]
    fn whatever_a_result_depends_on_changes_its_key() {
        let steel = Steel::built_in("1084").unwrap();
        let (as_planned, plain) = (plan(300), work());
        let base = key(&as_planned, steel, &plain);
        assert_eq!(base, key(&plan(300), steel, &work()));
        let clay: ClayDraft = serde_json::from_str(
            r#"{"left":{"strokes":[{"points":[[20,20],[150,20]],"width_mm":12,"thickness_mm":2}]}}"#,
        )
        .unwrap();
        let mut others = vec![key(&plan(301), steel, &plain)];
        let mut lean = steel.analysis;
        lean.carbon += 0.001;
        others.push(key(&as_planned, &steel.with_analysis(&lean), &plain));
        let changes: [fn(&mut Workpiece); 6] = [
            |w| w.furnace = Furnace::Forge,
            |w| w.protection = Protection::Foil,
            |w| w.together = 2,
            |w| w.raisers = 1,
            |w| w.unlaid = true,
            |w| w.checks.extend([(Check::ALL[0], false)]),
        ];
        for change in changes {
            let mut other = work();
            change(&mut other);
            others.push(key(&as_planned, steel, &other));
        }
        let mut clayed = work();
        clayed.clay = Clay::parse(&clay).unwrap();
        others.push(key(&as_planned, steel, &clayed));
        others.push(base);
        let different: std::collections::HashSet<_> = others.iter().collect();
        assert_eq!(different.len(), others.len());
    }
}
