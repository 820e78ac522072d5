//! Request bodies: size-limited JSON whose faults name the field.

use crate::problem::{PendingProblem, Problem};
use rocket::data::{Data, FromData, Outcome, ToByteUnit};
use rocket::http::Status;
use rocket::request::{FromParam, Request};
use serde::de::DeserializeOwned;
use uuid::Uuid;
use vatten_core::quantity::units::{Hrc, Quantity};
use vatten_core::quantity::validation::{Checker, Faults};

/// Largest ordinary body.
const LIMIT_KIB: u64 = 128;
/// Largest import.
const IMPORT_LIMIT_MIB: u64 = 16;
/// Largest temperature log, as JSON text.
const LOG_LIMIT_MIB: u64 = 6;
/// Largest drawing file, as JSON text.
const DRAWING_LIMIT_KIB: u64 = 2560;

/// A JSON body. A wrong content type is 415, a large one 413, bad JSON 422 with the field named.
pub struct Body<T>(pub T);

/// Reads JSON, naming the field that does not fit.
///
/// # Errors
/// One fault with the path of the field and what was expected there.
pub fn parse<T: DeserializeOwned>(bytes: &[u8]) -> Result<T, Problem> {
    if bytes.windows(6).any(|w| w.eq_ignore_ascii_case(b"\\u0000")) || bytes.contains(&0) {
        return Err(Faults::one("", "A NUL character cannot be stored.").into());
    }
    let mut reader = serde_json::Deserializer::from_slice(bytes);
    let value = serde_path_to_error::deserialize(&mut reader).map_err(|error| {
        let path = error.path().to_string();
        let message = error.inner().to_string();
        let message = message.split(" at line ").next().unwrap_or_default();
        Problem::from(field_fault(&path, message))
    })?;
    reader
        .end()
        .map_err(|e| Problem::from(Faults::one("", format!("This is not one JSON value: {e}"))))?;
    Ok(value)
}

/// Turns a deserializer's message into a fault at the field it speaks of.
fn field_fault(path: &str, message: &str) -> Faults {
    let base = if path == "." { "" } else { path };
    let quoted = message.split('`').nth(1).unwrap_or_default();
    if message.starts_with("missing field") {
        let field = if base.is_empty() {
            quoted.to_owned()
        } else {
            format!("{base}.{quoted}")
        };
        return Faults::one(field, "This is needed.");
    }
    if message.starts_with("unknown field") {
        let allowed = message
            .split("expected ")
            .nth(1)
            .unwrap_or_default()
            .replace('`', "");
        let allowed = allowed.trim_start_matches("one of ").to_owned();
        let text = format!("There is no field called {quoted}.");
        // The path mostly ends with the unknown field; inside a value told apart by its kind it does not.
        let field = if base.is_empty() {
            quoted.to_owned()
        } else if base.ends_with(quoted) {
            base.to_owned()
        } else {
            format!("{base}.{quoted}")
        };
        return Faults::with_allowed(field, text, allowed);
    }
    if message.starts_with("unknown variant") && base.ends_with(']') {
        let kinds = message.split_once("expected ").map_or("", |(_, all)| all);
        let allowed = kinds.replace('`', "").replace("one of ", "");
        let text = format!("There is no kind called {quoted}.");
        return Faults::with_allowed(format!("{base}.kind"), text, allowed);
    }
    Faults::one(base, format!("This does not fit: {message}."))
}

#[rocket::async_trait]
impl<'r, T: DeserializeOwned> FromData<'r> for Body<T> {
    type Error = ();

    async fn from_data(request: &'r Request<'_>, data: Data<'r>) -> Outcome<'r, Self> {
        let refuse = |problem| Outcome::Error((PendingProblem::leave(request, problem), ()));
        if !request.content_type().is_some_and(|kind| kind.is_json()) {
            return refuse(Problem::new(
                Status::UnsupportedMediaType,
                "Send JSON, with Content-Type: application/json.",
            ));
        }
        let path = request.uri().path();
        let limit = if path.ends_with("/outline/file") {
            DRAWING_LIMIT_KIB.kibibytes()
        } else if path.ends_with("/traces") || path.ends_with("/traces/read") {
            LOG_LIMIT_MIB.mebibytes()
        } else if path.ends_with("/import") {
            IMPORT_LIMIT_MIB.mebibytes()
        } else {
            LIMIT_KIB.kibibytes()
        };
        match data.open(limit).into_bytes().await {
            Ok(bytes) if !bytes.is_complete() => refuse(Problem::new(
                Status::PayloadTooLarge,
                format!("This is larger than {limit}. Nothing was stored."),
            )),
            Ok(bytes) => match parse(&bytes) {
                Ok(value) => Outcome::Success(Self(value)),
                Err(problem) => refuse(problem),
            },
            Err(_) => refuse(Problem::new(Status::BadRequest, "The body broke off.")),
        }
    }
}

/// An id in a path. What is no id is nothing the shop has: the route does not match, which is 404.
#[derive(Debug, Clone, Copy)]
pub struct Id(pub Uuid);

impl<'r> FromParam<'r> for Id {
    type Error = ();

    fn from_param(text: &'r str) -> Result<Self, ()> {
        Uuid::parse_str(text).map(Self).map_err(|_| ())
    }
}

/// The wanted hardness out of two fields, HRC: the lowest not above the highest.
pub fn wanted_hrc(c: &mut Checker, low: (&str, f64), high: (&str, f64)) -> Option<(f64, f64)> {
    let lowest = c.take(Hrc::check(low.0, low.1));
    let highest = c.take(Hrc::check(high.0, high.1));
    if low.1 > high.1 {
        c.refuse(low.0, "The lowest wanted hardness is above the highest.");
    }
    Some((lowest?.value(), highest?.value()))
}

/// Trims a text and checks its length in characters; control characters are refused.
///
/// # Errors
/// A fault at `field`.
pub fn text(field: &str, value: &str, (low, high): (usize, usize)) -> Result<String, Faults> {
    let trimmed = value.trim();
    let count = trimmed.chars().count();
    if trimmed
        .chars()
        .any(|c| c.is_control() && c != '\n' && c != '\t')
    {
        return Err(Faults::one(field, "Control characters cannot be stored."));
    }
    if count < low || count > high {
        let message = if count < low {
            "This is needed."
        } else {
            "This is too long."
        };
        return Err(Faults::with_allowed(
            field,
            message,
            format!("{low} to {high} characters"),
        ));
    }
    Ok(trimmed.to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use serde::Deserialize;

    #[derive(Debug, Deserialize)]
    #[serde(deny_unknown_fields)]
    struct Inner {
        #[allow(dead_code)]
        length_mm: f64,
    }

    #[derive(Debug, Deserialize)]
    #[serde(tag = "kind", rename_all = "snake_case")]
    enum Tagged {
        Plain(#[allow(dead_code)] Inner),
    }

    #[derive(Debug, Deserialize)]
    #[serde(deny_unknown_fields)]
    struct Outer {
        #[allow(dead_code)]
        blades: Vec<Inner>,
        #[serde(default)]
        #[allow(dead_code)]
        steps: Vec<Tagged>,
    }

    #[rstest]
    #[case(r#"{"blades":[{"length_mm":"long"}]}"#, "blades[0].length_mm")]
    #[case(r#"{"blades":[{}]}"#, "blades[0].length_mm")]
    #[case(r#"{"blades":[{"length_mm":1,"lenght":2}]}"#, "blades[0].lenght")]
    #[case(
        r#"{"steps":[{"kind":"plain","length_mm":1,"lenght":2}]}"#,
        "steps[0].lenght"
    )]
    #[case(r#"{"steps":[{"kind":"plain"}]}"#, "steps[0].length_mm")]
    #[case(r#"{"steps":[{"kind":"polish"}]}"#, "steps[0].kind")]
    #[case(r#"{"steps":[{}]}"#, "steps[0].kind")]
    #[case(r#"{}"#, "blades")]
    #[case(r#"{"blades":[]} x"#, "")]
    #[case(r#"{"blades":[],"a\u0000":1}"#, "")]
    fn faults_name_the_field(#[case] json: &str, #[case] field: &str) {
        let problem = parse::<Outer>(json.as_bytes()).unwrap_err();
        assert_eq!(problem.status, 422);
        assert_eq!(problem.fields[0].field, field, "{problem:?}");
    }

    #[rstest]
    #[case("  Reed hook ", true)]
    #[case("", false)]
    #[case("a\u{7}b", false)]
    #[case("far too long a name for this", false)]
    fn texts(#[case] value: &str, #[case] good: bool) {
        assert_eq!(text("name", value, (1, 20)).is_ok(), good);
    }
}
