//! What the front end knows of baths is what the core has: `crates/core/tests/baths.json`, read by a test of the front end.

use serde_json::{Value, json};
use vatten_core::material::medium::Medium;
use vatten_core::process::plan::TORCH_S;
use vatten_core::process::step::USUAL_TRANSFER_S;

#[test]
fn baths_are_as_written_down() {
    let usual = Medium::ALL
        .iter()
        .map(|m| (m.id().to_owned(), json!(m.usual_bath().value())));
    let now = json!({
        "usual_c": usual.collect::<serde_json::Map<_, _>>(),
        "transfer_s": USUAL_TRANSFER_S,
        "torch_s": TORCH_S,
    });
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/baths.json");
    if std::env::var_os("WRITE_BATHS").is_some() {
        let text = serde_json::to_string_pretty(&now).unwrap() + "\n";
        std::fs::write(path, text).unwrap();
    }
    let kept: Value = serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap();
    assert_eq!(kept, now, "run with WRITE_BATHS=1");
}
