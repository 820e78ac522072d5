//! The OpenAPI description, generated from the routes.

use crate::routes::every_route;
use crate::routes::*;
use rocket::get;
use rocket::serde::json::Json;
use utoipa::openapi::security::{ApiKey, ApiKeyValue, HttpAuthScheme, HttpBuilder, SecurityScheme};
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
    ($($noun:ident::$route:ident,)*) => {
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
            }
        }
    }
    api
}

/// The description, as JSON.
#[get("/api/openapi.json")]
pub fn serve() -> Json<utoipa::openapi::OpenApi> {
    Json(description())
}
