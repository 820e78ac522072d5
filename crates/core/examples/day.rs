//! Lays a day that is written as JSON: `cargo run --release -p vatten-core --example day -- DAY.json --ms 300 --seed 1 --out
//! PLAN.json`. With `--passes` instead of `--ms` the same question has the same answer.
#![allow(clippy::print_stdout, reason = "an example")]

use serde_json::{Value, json};
use std::error::Error;
use std::time::{Duration, Instant};
use vatten_core::planning::day::Day;
use vatten_core::planning::plan::{Bar, Plan};
use vatten_core::planning::problem::Problem;
use vatten_core::planning::search::{Budget, search};

fn bar(bar: &Bar) -> Value {
    let [going_in, all_the_while, out] = &bar.hands;
    json!({ "blade": bar.blade, "activity": bar.activity, "kind": bar.kind, "station": bar.station, "start_s": bar.start_s,
        "leave_s": bar.leave_s, "end_s": bar.end_s, "temperature_c": bar.heat_c, "pre_c": bar.preheat_c, "op_in": going_in,
        "op_main": all_the_while, "op_out": out, "load": bar.load, "why": bar.binds })
}

fn main() -> Result<(), Box<dyn Error>> {
    let all: Vec<String> = std::env::args().collect();
    let said = |name: &str| {
        let at = all.iter().position(|a| a == name)?;
        all.get(at + 1).cloned()
    };
    let path = all.get(1).ok_or("which day?")?;
    let day: Day = serde_json::from_str(&std::fs::read_to_string(path)?)?;
    let problem = Problem::new(&day).map_err(|why| format!("{why:?}"))?;
    let within = said("--ms").map(|ms| ms.parse()).transpose()?;
    let within = within.map(Duration::from_millis);
    let passes = said("--passes").map(|n| n.parse()).transpose()?;
    let begun = Instant::now();
    let first = search(
        &problem,
        &Budget {
            passes: 1,
            seed: 1,
            known: Vec::new(),
        },
        || true,
    );
    let first_ms = begun.elapsed().as_secs_f64() * 1e3;
    // In a hurry the budget is what fits, by how long passes take on this machine once they are warm.
    let passes = passes.unwrap_or_else(|| match within {
        Some(within) => {
            let trial = Instant::now();
            let budget = Budget {
                passes: 400,
                seed: 1,
                known: Vec::new(),
            };
            let tried = search(&problem, &budget, || trial.elapsed() > within / 10);
            let each = trial.elapsed().as_secs_f64() / tried.passes.max(1) as f64;
            let left = within.saturating_sub(begun.elapsed()).as_secs_f64();
            ((left / each) as u64).max(1)
        }
        None => 20_000,
    });
    let budget = Budget {
        passes,
        seed: said("--seed").map_or(Ok(1), |s| s.parse())?,
        known: Vec::new(),
    };
    let found = search(&problem, &budget, || {
        within.is_some_and(|within| begun.elapsed() > within)
    });
    let ms = begun.elapsed().as_secs_f64() * 1e3;
    let plan = Plan::of(&day, &problem, &found.genome);
    let score = json!({ "left_out": plan.score.left_out, "broken_s": plan.score.broken_s, "risk_ppm": plan.score.risk_ppm,
        "late_s": plan.score.late_s, "cost_s": plan.score.cost_s, "sum_s": plan.score.sum_s });
    if let Some(out) = said("--out") {
        let written = json!({ "instance": day.id, "score": score, "left_out": plan.left_out, "risks_ppm": plan.risks_ppm,
            "activities": plan.bars.iter().map(bar).collect::<Vec<_>>() });
        std::fs::write(out, serde_json::to_string_pretty(&written)?)?;
    }
    println!(
        "{}",
        json!({ "instance": day.id, "score": score, "left_out": plan.left_out, "passes": found.passes, "first_ms": first_ms,
            "ms": ms, "same": plan.score == found.score, "first_cost_s": first.score.cost_s })
    );
    Ok(())
}
