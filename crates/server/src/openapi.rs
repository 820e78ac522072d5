//! The OpenAPI description, generated from the routes. Only with the feature `schema`: what is served is
//! the file it was written to, so that a first start does not compile it.

use crate::routes::*;
use crate::routes::{Need, all, every_route};
use std::collections::BTreeMap;
use utoipa::openapi::security::{ApiKey, ApiKeyValue, HttpAuthScheme, HttpBuilder, SecurityScheme};
use utoipa::openapi::{
    ContentBuilder, Ref, RefOr, Response as ApiResponse, ResponseBuilder, ResponsesBuilder,
};
use utoipa::{Modify, OpenApi};

struct Security;

impl Modify for Security {
    fn modify(&self, api: &mut utoipa::openapi::OpenApi) {
        let components = api.components.get_or_insert_default();
        let cookie = ApiKey::Cookie(ApiKeyValue::new(crate::auth::COOKIE));
        components.add_security_scheme("session", SecurityScheme::ApiKey(cookie));
        let bearer = HttpBuilder::new().scheme(HttpAuthScheme::Bearer).build();
        components.add_security_scheme("token", SecurityScheme::Http(bearer));
    }
}

macro_rules! described {
    ($($noun:ident::$route:ident => $need:ident,)*) => {
        #[derive(OpenApi)]
        #[openapi(
            info(title = "Vatten", description = "Plan, log and predict the heat treatment of blades."),
            security(("session" = []), ("token" = [])),
            modifiers(&Security),
            components(schemas(crate::problem::Problem, vatten_core::advice::diagnosis::Symptom)),
            paths($($noun::$route),*)
        )]
        struct Api;
    };
}
every_route!(described);

/// The description.
///
/// Operations are named by method and path: the functions of two nouns share names, and a name must
/// be there once.
#[must_use]
pub fn description() -> utoipa::openapi::OpenApi {
    let mut api = Api::openapi();
    for (path, item) in &mut api.paths.paths {
        let words: Vec<&str> = path
            .trim_start_matches("/api/v1/")
            .split(['/', '-'])
            .map(|word| word.trim_matches(['{', '}']))
            .collect();
        let name = words.join("_");
        let operations = [
            ("get", &mut item.get),
            ("put", &mut item.put),
            ("patch", &mut item.patch),
            ("post", &mut item.post),
            ("delete", &mut item.delete),
        ];
        for (method, operation) in operations {
            if let Some(operation) = operation {
                operation.operation_id = Some(format!("{method}_{name}"));
                let whom = for_whom(method, path);
                let words = operation.description.get_or_insert_default();
                if !words.is_empty() {
                    words.push_str("\n\n");
                }
                words.push_str(&format!("For: {whom}."));
            }
        }
    }
    api
}

/// Who may ask an operation, in words.
fn for_whom(method: &str, path: &str) -> &'static str {
    let of = allowed()
        .into_iter()
        .find(|(m, p, _)| m.eq_ignore_ascii_case(method) && p == path);
    match of.map(|(_, _, need)| need) {
        Some(Need::Nothing) => "anybody, signed in or not",
        Some(Need::Read) => "everybody of the shop",
        Some(Need::Oneself) => "whoever signed in, about themselves; no token",
        Some(Need::Fire) => "helpers, smiths and owners",
        Some(Need::Plan) => "smiths and owners",
        Some(Need::Own) | None => "owners; no token",
    }
}

/// Every operation, as method and path of the API, with what it needs.
pub fn allowed() -> Vec<(String, String, Need)> {
    let operation = |route: rocket::Route| {
        let path = route
            .uri
            .path()
            .replace('<', "{")
            .replace("..>", "}")
            .replace('>', "}");
        (
            route.method.to_string(),
            format!("/api/v1{path}"),
            Need::of(&route),
        )
    };
    all().into_iter().map(operation).collect()
}

/// The problems that every route may answer with, for the OpenAPI description.
pub struct Problems;

impl utoipa::IntoResponses for Problems {
    fn responses() -> BTreeMap<String, RefOr<ApiResponse>> {
        let problem = |description: &str| {
            ResponseBuilder::new()
                .description(description)
                .content(
                    "application/problem+json",
                    ContentBuilder::new()
                        .schema(Some(RefOr::Ref(Ref::from_schema_name("Problem"))))
                        .build(),
                )
                .build()
        };
        ResponsesBuilder::new()
            .response("401", problem("Nobody is signed in."))
            .response(
                "403",
                problem("This is not for whoever asks: another role, or somebody in person."),
            )
            .response("404", problem("The shop has no such thing."))
            .response(
                "409",
                problem("It is no longer, or not yet, as it must be for this."),
            )
            .response("413", problem("The body is larger than allowed."))
            .response("415", problem("The body is not sent as application/json."))
            .response(
                "422",
                problem("Fields are wrong; each is named with what is allowed."),
            )
            .build()
            .responses
            .into_iter()
            .collect()
    }
}
