//! Records of version 0.1 up to migration 12, which kept sentences where facts stand now: each sentence is
//! read by the template it was written by. What no template reads is left out, and what held it is kept
//! as it was beside the facts.

mod templates;

use serde_json::{Map, Value, json};
use templates::{
    CONFLICTS, COSTS, FIRES, HARDNESS, LOG_NOTES, NEXT, NO_LINE, OUT_OF_REACH, OUTCOMES, RECORDS,
    Template, WARNINGS,
};
use vatten_core::material::medium::Medium;

/// What stands in a template between its literals.
#[derive(Debug, Clone, Copy)]
struct Slot<'a> {
    name: &'a str,
    words: bool,
}

/// Literals and slots of a template, in turn, beginning with a literal.
fn parts(template: &str) -> (Vec<&str>, Vec<Slot<'_>>) {
    let (mut literals, mut slots) = (Vec::new(), Vec::new());
    let mut rest = template;
    while let Some((literal, after)) = rest.split_once('{') {
        let (name, after) = after.split_once('}').unwrap_or((after, ""));
        literals.push(literal);
        slots.push(Slot {
            name: name.trim_end_matches('$'),
            words: name.ends_with('$'),
        });
        rest = after;
    }
    literals.push(rest);
    (literals, slots)
}

fn number(text: &str) -> Option<f64> {
    text.replace('−', "-").parse().ok()
}

/// What stands in the slots of a template, when a sentence was written by it.
fn slots_of<'a>(template: &'a str, sentence: &'a str) -> Option<Vec<(Slot<'a>, &'a str)>> {
    let (literals, slots) = parts(template);
    let mut rest = sentence.strip_prefix(literals[0])?;
    let mut found = Vec::with_capacity(slots.len());
    for (i, slot) in slots.iter().enumerate() {
        let literal = literals[i + 1];
        let last = i + 1 == slots.len();
        let at = if last {
            rest.len().checked_sub(literal.len())?
        } else {
            rest.find(literal)?
        };
        let (value, after) = (rest.get(..at)?, rest.get(at..)?.strip_prefix(literal)?);
        if !slot.words && number(value).is_none() {
            return None;
        }
        found.push((*slot, value));
        rest = after;
    }
    rest.is_empty().then_some(found)
}

/// A fact with its slots filled in.
fn filled(fact: &mut Value, slots: &[(Slot<'_>, &str)]) {
    match fact {
        Value::Object(fields) => fields.values_mut().for_each(|v| filled(v, slots)),
        Value::String(text) if text.starts_with('$') => {
            let wanted = text[1..].to_owned();
            let end = wanted.find(['*', ':', '#']).unwrap_or(wanted.len());
            let (name, rest) = wanted.split_at(end);
            let slot = slots.iter().find(|s| s.0.name == name);
            let (words, value) = slot.map_or((true, ""), |s| (s.0.words, s.1));
            *fact = match rest.chars().next() {
                Some('*') => {
                    json!(number(value).unwrap_or(0.0) * number(&rest[1..]).unwrap_or(1.0))
                }
                Some('#') => json!(number(value).unwrap_or(0.0) as u64),
                Some(':') => json!(Medium::parse(value).map(Medium::id)),
                _ if words => json!(value),
                _ => json!(number(value)),
            };
        }
        _ => {}
    }
}

/// The fact that a sentence tells.
fn fact(templates: &[Template], sentence: &str) -> Option<Value> {
    templates.iter().find_map(|(template, fact)| {
        let slots = slots_of(template, sentence)?;
        let mut fact: Value = serde_json::from_str(fact).ok()?;
        filled(&mut fact, &slots);
        Some(fact)
    })
}

/// `at 103 °C 5 months ago`, or a part of it.
fn reach(words: &str) -> Value {
    let mut found = Map::new();
    let mut rest = words.trim();
    if let Some(after) = rest.strip_prefix("at ")
        && let Some((c, after)) = after.split_once(" °C")
    {
        found.insert("nearest_c".to_owned(), json!(number(c)));
        rest = after.trim();
    }
    if let Some(months) = rest.strip_suffix(" months ago") {
        let days = number(months).map(|m| m * 30.4);
        found.insert("age_days".to_owned(), json!(days));
    }
    Value::Object(found)
}

/// The words of a check's reach, in the place where they stand, as quantities.
fn with_reach(fact: &mut Value) {
    for at in ["faded", "reach"] {
        if let Some(held) = fact.get_mut(at).filter(|v| v.is_object()) {
            let words = held["reach"].as_str().unwrap_or_default().to_owned();
            let tells = held["tells"].clone();
            *held = reach(&words);
            held["tells"] = tells;
        }
    }
    // A station without a name was called “It”, a fire “The fire”.
    if matches!(
        fact["station"].as_str(),
        Some("It" | "The fire" | "The oven")
    ) {
        fact["station"] = Value::Null;
    }
}

/// Of everything that was read: what no template knew.
#[derive(Debug, Default)]
struct Reader {
    unread: Vec<String>,
}

fn text_of(value: &mut Value) -> Option<String> {
    let fields = value.as_object_mut()?;
    match fields.remove("text")? {
        Value::String(text) => Some(text),
        _ => None,
    }
}

fn merge(into: &mut Value, facts: Value) {
    if let (Some(into), Value::Object(facts)) = (into.as_object_mut(), facts) {
        into.extend(facts);
    }
}

impl Reader {
    /// The fact of a sentence by the first list that knows it.
    fn read(&mut self, lists: &[&[Template]], sentence: &str) -> Option<Value> {
        let found = lists.iter().find_map(|list| fact(list, sentence));
        if found.is_none() {
            self.unread.push(sentence.to_owned());
        }
        found
    }

    fn reasons(&mut self, reasons: &mut Value) {
        let Some(all) = reasons.as_array_mut() else {
            return;
        };
        all.retain_mut(|reason| {
            let Some(text) = text_of(reason) else {
                return true;
            };
            let learned = reason["learned"] == json!(true);
            let fire = fact(&FIRES, &text).filter(|_| learned).map(|mut fire| {
                // Before the temper only the fire of the hardening heat can have moved it.
                let oven = reason["about"] == "tempered" && !text.starts_with("The fire");
                fire["code"] = json!(if oven { "oven_runs" } else { "kiln_runs" });
                fire
            });
            let none = fact(NO_LINE, &text).or_else(|| too_short(&text));
            let no_line = none.map(|none| json!({ "code": "no_line", "none": none }));
            let found = fire
                .or(no_line)
                .or_else(|| self.read(&[HARDNESS, RECORDS, OUTCOMES], &text));
            let Some(mut found) = found else {
                return false;
            };
            with_reach(&mut found);
            merge(reason, found);
            true
        });
    }

    fn warnings(&mut self, warnings: &mut Value) {
        let Some(all) = warnings.as_array_mut() else {
            return;
        };
        all.retain_mut(|warning| {
            let Some(text) = text_of(warning) else {
                return true;
            };
            let found = if warning["code"] == "layers_do_not_meet" {
                let conflict = self.read(&[CONFLICTS], &text);
                conflict.map(|c| json!({ "code": "layers_do_not_meet", "conflict": c }))
            } else {
                self.read(&[WARNINGS], &text)
            };
            let Some(found) = found else {
                return false;
            };
            let kind = changed_by(warning["code"].as_str().unwrap_or_default());
            fix(warning, kind);
            merge(warning, found);
            true
        });
    }

    fn next(&mut self, prediction: &mut Value) {
        let Some(next) = prediction.get_mut("next").filter(|n| n.is_object()) else {
            return;
        };
        let text = text_of(next).unwrap_or_default();
        let found = self.read(&[NEXT], &text);
        let kind = if text.starts_with("Temper") {
            "temper"
        } else {
            "austenitize"
        };
        fix(next, Some(kind));
        match found {
            Some(found) => merge(next, found),
            None => prediction["next"] = Value::Null,
        }
    }

    fn checks(&mut self, prediction: &mut Value) {
        let Some(all) = prediction.get_mut("checks").and_then(Value::as_array_mut) else {
            return;
        };
        all.retain_mut(|check| {
            if let Some(fields) = check.as_object_mut() {
                fields.remove("question");
            }
            let Some(cost) = check["cost"].as_str().map(str::to_owned) else {
                return true;
            };
            let found = self.read(&[COSTS], &cost);
            let known = found.is_some();
            check["cost"] = found.unwrap_or_default();
            known
        });
    }
}

/// Too little of its length carries a line: the shares that were worth naming.
fn too_short(sentence: &str) -> Option<Value> {
    let inside = sentence
        .strip_prefix("Of its length ")?
        .strip_suffix(": too little for a line.")?;
    let mut none =
        json!({ "code": "too_short", "soft_share": 0.0, "through_share": 0.0, "line_share": 0.0 });
    for part in inside.split(", ") {
        let (share, what) = part.split_once(" % ")?;
        let name = match what {
            "stays soft to the edge" => "soft_share",
            "hardens right through to the spine" => "through_share",
            "carries a line" => "line_share",
            _ => return None,
        };
        none[name] = json!(number(share)? / 100.0);
    }
    Some(none)
}

/// Kind of the step that the fix of a warning sets a number of.
fn changed_by(code: &str) -> Option<&'static str> {
    Some(match code {
        "below_ac1" | "coarse_grain" | "outside_window" | "short_soak" => "austenitize",
        "brittle_temper" => "temper",
        "clay_wet" => "clay",
        "tempered_warm" => "cool",
        "waiting_for_cold" => "sub_zero",
        "rising_heats" => "normalize",
        _ => return None,
    })
}

/// A fix had a label beside its change; the change says it all.
fn fix(holder: &mut Value, kind: Option<&str>) {
    let Some(mut change) = holder["fix"].get("change").cloned() else {
        return;
    };
    if let (true, Some(kind)) = (change["change"] == "set", kind) {
        change["kind"] = json!(kind);
    }
    holder["fix"] = change;
}

/// True for a prediction that holds sentences.
#[must_use]
pub fn has_sentences(prediction: &Value) -> bool {
    prediction["through"].get("text").is_some()
}

/// A prediction with its sentences read into facts, and the sentences that no template knew. One that holds
/// facts already stays as it is.
#[must_use]
pub fn prediction(mut found: Value) -> (Value, Vec<String>) {
    if !has_sentences(&found) {
        return (found, Vec::new());
    }
    let mut reader = Reader::default();
    let through = text_of(&mut found["through"]).unwrap_or_default();
    let spine = through.rsplit_once("the spine is ").map(|(_, mm)| mm);
    let spine = spine.and_then(|mm| number(mm.trim_end_matches(" mm.")));
    found["through"]["spine_mm"] = json!(spine.unwrap_or(0.0));
    found["through"]["by_clay"] = json!(through.contains("clay"));
    for at in ["reasons", "outcome_reasons"] {
        reader.reasons(&mut found[at]);
    }
    reader.warnings(&mut found["warnings"]);
    reader.next(&mut found);
    reader.checks(&mut found);
    let wanted = &mut found["temper_for_target"];
    if let (Some(text), true) = (text_of(wanted), wanted["temperature_c"].is_null()) {
        wanted["out_of_reach"] = reader.read(&[OUT_OF_REACH], &text).unwrap_or_default();
    }
    if let Some(text) = found["hamon"]["none"].as_str().map(str::to_owned) {
        let none = too_short(&text).or_else(|| reader.read(&[NO_LINE], &text));
        found["hamon"]["none"] = none.unwrap_or_else(|| json!({ "code": "hardens_through" }));
    }
    if let Some(layers) = found.get_mut("layers").and_then(Value::as_array_mut) {
        for layer in layers {
            let text = text_of(layer).unwrap_or_default();
            layer["hard"] = json!(!text.contains("stays soft"));
        }
    }
    (found, reader.unread)
}

/// What was odd in a log, of notes that may be sentences.
#[must_use]
pub fn log_notes(notes: &[Value]) -> Vec<Value> {
    let one = |note: &Value| match note.as_str() {
        Some(sentence) => fact(LOG_NOTES, sentence),
        None => Some(note.clone()),
    };
    notes.iter().filter_map(one).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use vatten_core::import::log::LogNote;
    use vatten_core::prediction::Prediction;

    fn kept() -> Vec<Value> {
        let path = concat!(
            env!("CARGO_MANIFEST_DIR"),
            "/tests/kept/predictions_as_sentences.json"
        );
        serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap()
    }

    /// Predictions that the version before this one answered with, over all steels and media.
    #[test]
    fn every_sentence_of_the_version_before_is_read_into_its_fact() {
        let all = kept();
        assert!(all.len() > 30);
        for old in all {
            let numbers = old["hardness"].clone();
            let count = |p: &Value| {
                let of = |at: &str| p[at].as_array().map_or(0, Vec::len);
                (of("reasons"), of("outcome_reasons"), of("warnings"))
            };
            let before = count(&old);
            let (new, unread) = prediction(old);
            assert!(unread.is_empty(), "{unread:?}");
            assert_eq!(count(&new), before);
            assert_eq!(new["hardness"], numbers);
            let typed: Result<Prediction, _> = serde_json::from_value(new.clone());
            let typed = typed.unwrap_or_else(|e| panic!("{e} in {new:#}"));
            let again = serde_json::to_value(&typed).unwrap();
            assert!(!has_sentences(&again));
            assert_eq!(prediction(again.clone()), (again, Vec::new()));
        }
    }

    #[test]
    fn quantities_come_out_in_the_units_of_their_names() {
        let told = |list, sentence| fact(list, sentence).unwrap();
        assert_eq!(
            told(
                WARNINGS,
                "12 min dissolves only 40 % of the carbon this heat can hold. 20 min takes most of it."
            ),
            json!({"code": "short_soak", "soak_s": 720.0, "dissolved_share": 0.4, "enough_s": 1200.0})
        );
        assert_eq!(
            told(
                OUTCOMES,
                "Your own lines came out 1.5 mm lower than simulated."
            ),
            json!({"code": "lines_moved", "by_mm": -1.5})
        );
        let mut far = told(
            RECORDS,
            "Big kiln was checked at 103 °C 5 months ago: that says little of 815 °C, which stays as unknown as before.",
        );
        with_reach(&mut far);
        assert_eq!(
            far["reach"],
            json!({"nearest_c": 103.0, "age_days": 152.0, "tells": 0.0})
        );
        assert_eq!(far["station"], "Big kiln");
        let short = "Of its length 60 % stays soft to the edge, 40 % hardens right through to the spine: too little for a line.";
        assert_eq!(too_short(short).unwrap()["through_share"], 0.4);
    }

    #[test]
    fn what_no_template_knows_is_left_out_and_told() {
        let mut old = kept().remove(0);
        old["reasons"] = json!([{ "about": "tempered", "text": "Nobody ever wrote this." }]);
        let (new, unread) = prediction(old);
        assert_eq!(unread, ["Nobody ever wrote this."]);
        assert_eq!(new["reasons"], json!([]));
    }

    #[test]
    fn notes_of_a_log_are_read_one_by_one() {
        let notes = [
            "3 rows say °F where the others do not: turned into the same unit.",
            "?",
        ];
        let found = log_notes(&notes.map(|n| json!(n)));
        let typed: Vec<LogNote> = found
            .into_iter()
            .map(|n| serde_json::from_value(n).unwrap())
            .collect();
        let other = LogNote::OtherUnit {
            rows: 3,
            fahrenheit: true,
        };
        assert_eq!(typed, [other]);
    }
}
