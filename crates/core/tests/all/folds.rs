//! What lists of events amount to, written down for the front end, which shows them before the server
//! has seen them: `folds.json` is what the core says, and the front end's test holds it to that file.

use serde_json::{Value, json};
use vatten_core::process::plan::Plan;
use vatten_core::process::step::Step;
use vatten_core::record::firing::{ActionKind, Event, FiringEvent, actions, state};

const STEPS: &str = r#"[{"kind":"normalize","temperature_c":870,"times":2},
    {"kind":"austenitize","temperature_c":815,"soak_s":300},
    {"kind":"quench","stages":[{"medium":"water","for_s":2},{"medium":"fast_oil"}]},
    {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#;

fn id(n: usize) -> uuid::Uuid {
    uuid::Uuid::from_u128(n as u128)
}

fn confirm(action: usize) -> Value {
    json!({"kind": "confirm", "action": action})
}

#[test]
fn folds_are_as_written_down() {
    let plan = Plan::parse(&serde_json::from_str::<Vec<_>>(STEPS).unwrap()).unwrap();
    let steps = plan.steps();
    let actions = actions(steps);
    let all: Vec<Value> = (0..actions.len()).map(confirm).collect();
    let hard = actions
        .iter()
        .position(|b| b.kind == ActionKind::OutCold {})
        .unwrap();
    let say = json!({"kind": "say", "step": 1, "temperature_c": 822.0, "lasted_s": 420.0, "note": "door"});
    let by = json!({"sign": "colour", "colour": "cherry", "light": "dim"});
    let seen = json!({"kind": "say", "step": 0, "by": by, "note": ""});
    let found = |what: Value| json!({"kind": "found", "found": what});
    let early = found(json!({"kind": "straight", "after": "forging", "places": [[60.0, 0.5]]}));
    let file = found(json!({"kind": "file", "stage": "as_quenched", "low_hrc": 60.0}));
    let crack = found(json!({"kind": "crack", "cracked": false}));
    let operator = |name: &str| json!({"kind": "operator", "name": name});
    // Events are known by their place in the list.
    let deviate = |how: Value| json!({"kind": "deviate", "how": how});
    let extra = json!({"kind": "stress_relief", "temperature_c": 650.0, "hold_s": 3600.0});
    let undo = |event: usize| json!({"kind": "undo", "event": id(event)});
    let lists: Vec<Vec<Value>> = vec![
        vec![],
        all[..3].to_vec(),
        all[..=hard].to_vec(),
        all[..hard + 2].to_vec(),
        [&all[..=hard], &[undo(hard)]].concat(),
        [
            &all[..4],
            std::slice::from_ref(&say),
            &[undo(3), confirm(3)],
        ]
        .concat(),
        all.clone(),
        [&all[..], &[json!({"kind": "close"})]].concat(),
        [&all[..], &[json!({"kind": "close"}), say.clone()]].concat(),
        [&[operator("Tove")], &all[..3], &[operator("Aksel")]].concat(),
        [&all[..], &[json!({"kind": "close"}), operator("Tove")]].concat(),
        // Taken back twice, then pressed anew, then taken back by somebody late: the new press stays.
        [&all[..2], &[undo(1), undo(1), confirm(1), undo(1)]].concat(),
        // What was said is taken back, by its name and no other.
        [
            &[operator("Tove"), operator("Aksel"), say.clone()],
            &[undo(1), undo(2)][..],
        ]
        .concat(),
        // Seen by eye, found before the fire and after the quench, one of them taken back, one after the end.
        [
            &[seen, early],
            &all[..=hard],
            &[file.clone(), crack.clone(), undo(hard + 3)][..],
            &[json!({"kind": "close"}), crack][..],
        ]
        .concat(),
        [&all[..2], &[json!({"kind": "close", "end": "mistake"})]].concat(),
        [
            &all[..=hard],
            &[json!({"kind": "close", "end": "abandoned"})],
        ]
        .concat(),
        // An extra heat of another kind, one more of the same, pressed through, one of them said to be cooler.
        [
            &all[..2],
            &[deviate(json!({"deviation": "extra", "step": extra}))],
            &[deviate(json!({"deviation": "again", "from": 1, "to": 1}))],
            &all[2..9],
            &[json!({"kind": "say", "step": 5, "temperature_c": 640.0})][..],
        ]
        .concat(),
        // Quenched again while it is hard, the second bath left out and another taken for the first.
        [
            &all[..=hard],
            &[deviate(json!({"deviation": "again", "from": 2, "to": 3}))],
            &[deviate(
                json!({"deviation": "left_out", "step": 6, "round": 1}),
            )],
            &all[hard + 1..hard + 3],
            &[json!({"kind": "say", "step": 6, "round": 0, "medium": "brine"})],
            &all[hard + 3..hard + 4],
        ]
        .concat(),
        // Straightened while it is in the bath; one of two tempers left out; timed longer; taken back again.
        [
            &all[..hard],
            &[deviate(
                json!({"deviation": "extra", "step": {"kind": "straighten"}}),
            )],
            &all[hard..hard + 2],
            &[deviate(
                json!({"deviation": "left_out", "step": 4, "round": 1}),
            )],
            &[deviate(
                json!({"deviation": "timed", "step": 4, "lasts_s": 3600.0}),
            )],
            &[undo(hard + 4)],
        ]
        .concat(),
        // A cooler temper, clamped past straight.
        [
            &all[..=hard],
            &[deviate(
                json!({"deviation": "heat", "step": 4, "temperature_c": 190.0}),
            )],
            &[deviate(
                json!({"deviation": "clamp", "step": 4, "shim_mm": 1.5}),
            )],
            &all[hard + 1..hard + 3],
        ]
        .concat(),
        // The temper is drawn forward of the look, the look is left out; nothing else can be taken back.
        [
            &all[..=hard],
            &[deviate(
                json!({"deviation": "extra", "step": {"kind": "check", "look": "cracked"}}),
            )],
            &[deviate(json!({"deviation": "earlier", "step": 4}))],
            &[deviate(json!({"deviation": "left_out", "step": 5}))],
            &all[hard + 1..],
        ]
        .concat(),
    ];
    let cases: Vec<Value> = lists
        .into_iter()
        .map(|list| {
            let timed: Vec<Event> = list
                .iter()
                .enumerate()
                .map(|(i, what)| Event {
                    id: id(i),
                    what: serde_json::from_value::<FiringEvent>(what.clone()).unwrap(),
                    at_ms: 1_000 * i as i64,
                })
                .collect();
            let at = list.iter().enumerate().map(|(i, what)| {
                let mut what = what.clone();
                what["at_ms"] = json!(1_000 * i);
                what["id"] = json!(id(i));
                what
            });
            let state = state(steps, &timed).unwrap();
            let course = state.course(steps);
            let mut case = json!({"events": at.collect::<Vec<_>>(), "state": state});
            if !state.deviations.is_empty() || state.said.len() > 1 {
                case["steps"] = json!(course.steps());
                case["order"] = json!(course.order());
                case["actions"] = json!(state.actions(&course));
            }
            case
        })
        .collect();
    let extras = ["stress_relief", "straighten", "check"].map(|kind| {
        let step = match kind {
            "stress_relief" => extra.clone(),
            "check" => json!({"kind": "check", "look": "cracked"}),
            kind => json!({"kind": kind}),
        };
        let step: Step = serde_json::from_value(step).unwrap();
        json!({"actions": vatten_core::record::firing::actions(std::slice::from_ref(&step)), "step": step})
    });
    let said = json!({"steps": steps, "actions": actions, "extras": extras, "cases": cases});
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/folds.json");
    let text = serde_json::to_string_pretty(&said).unwrap() + "\n";
    if std::env::var_os("WRITE_FOLDS").is_some() {
        std::fs::write(path, &text).unwrap();
    }
    assert!(
        std::fs::read_to_string(path).is_ok_and(|known| known == text),
        "tests/folds.json is stale: run this test once with WRITE_FOLDS=1"
    );
}
