//! Helps for the tests of the core.

use serde::Serialize;
use serde_json::Value;

/// The code of a fact: its `code`, or what it is written as where it has no quantities.
pub(crate) fn code(fact: &impl Serialize) -> String {
    match serde_json::to_value(fact).unwrap() {
        Value::String(text) => text,
        fact => fact["code"].as_str().unwrap().to_owned(),
    }
}
