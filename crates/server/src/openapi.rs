//! The OpenAPI description, generated from the routes.

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

#[derive(OpenApi)]
#[openapi(
    info(title = "Vatten", description = "Plan, log and predict the heat treatment of blades."),
    security(("session" = []), ("token" = [])),
    modifiers(&Security),
    components(schemas(crate::problem::Problem, vatten_core::advice::diagnosis::Symptom)),
    paths(
        account::sign_up, account::sign_in, account::who, account::sign_out,
        bar::list, bar::create, bar::update, bar::meeting,
        blade::rack, blade::finished, blade::marked, blade::create, blade::get, blade::update, blade::edits,
        calibration::list, calibration::create, calibration::withdraw,
        clay::get, clay::save, clay::sheet,
        diagnosis::get,
        exchange::export, exchange::import,
        finding::list, finding::create, finding::withdraw,
        firing::start, firing::open, firing::of_blade, firing::get, firing::hands, firing::events, firing::happen,
        lessons::get, compare::get,
        live::now, live::live,
        method::for_blade, method::list, method::create, method::update, method::versions, method::retire,
        method::what_helps,
        photo::list, photo::create, photo::picture, photo::trace_line, photo::withdraw,
        plan::get, plan::save, plan::usual,
        predict::predict, predict::simulate, advise::clay, advise::water, predict::health,
        outline::preset, outline::file,
        reading::list, reading::create, reading::set_aside, reading::withdraw,
        station::list, station::create, station::update, station::now, station::set_point, station::call_back,
        station::waiting, station::put_aside,
        station::loaded,
        steel::list, steel::get, steel::create, steel::update, steel::points,
        token::list, token::create, token::revoke,
        trace::list, trace::preview, trace::create, trace::source, trace::withdraw,
        trial::list, trial::get, trial::create, trial::save, trial::become_steel,
        workshop::get, workshop::update,
    )
)]
struct Api;

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
