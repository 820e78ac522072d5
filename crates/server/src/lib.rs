//! The web server of Vatten.

mod answers;
mod auth;
mod body;
mod cache;
mod cache_key;
mod caller;
mod came_out_well;
mod clay_sheet;
mod compute_pool;
pub mod config;
mod day;
pub mod demo;
pub mod device;
mod event_body;
mod exchange;
mod live;
pub mod log;
mod materials;
mod model_cache;
#[cfg(feature = "schema")]
pub mod openapi;
mod password_rule;
mod picture;
mod predictor;
mod prepared_blade;
mod problem;
mod routes;
mod sheet;
mod shop_model;
mod sign_in_limits;
mod static_files;
mod user_agent;
mod words;

use config::Config;
use predictor::Predictor;
use rocket::fairing::AdHoc;
use rocket::http::{Header, Method};
use rocket::response::content::RawJson;
use rocket::{Build, Rocket};
use vatten_store::PgPool;

const POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; \
     img-src 'self' data: blob:; worker-src 'self'; connect-src 'self'; manifest-src 'self'; base-uri 'none'; \
     form-action 'self'; frame-ancestors 'none'";

/// The OpenAPI description, as it was generated from the routes; `./test` holds it to them.
#[rocket::get("/api/openapi.json")]
fn description() -> RawJson<&'static str> {
    RawJson(include_str!("../../../web/src/api/openapi.json"))
}

/// The server over a database that is up to date.
///
/// # Errors
/// The front end cannot be read.
pub fn rocket(pool: PgPool, config: Config) -> Result<Rocket<Build>, String> {
    let front = static_files::StaticFiles::read(&config.web).map_err(|e| {
        format!(
            "the built front end is not in {}: {e}",
            config.web.display()
        )
    })?;
    let figment = rocket::Config::figment()
        .merge(("address", config.address))
        .merge(("port", config.port))
        .merge(("ip_header", sign_in_limits::address_header(&config)))
        .merge(("log_level", "critical"))
        .merge(("cli_colors", false))
        .merge(("ident", false))
        .merge(("shutdown.grace", 2))
        .merge(("shutdown.mercy", 2));
    let headers = AdHoc::on_response("headers", |request, response| {
        Box::pin(async move {
            response.set_header(Header::new("Content-Security-Policy", POLICY));
            response.set_header(Header::new("X-Content-Type-Options", "nosniff"));
            response.set_header(Header::new("Referrer-Policy", "same-origin"));
            let config = request.rocket().state::<Config>();
            if config.is_some_and(|c| c.behind_tls) {
                let a_year = "max-age=31536000";
                response.set_header(Header::new("Strict-Transport-Security", a_year));
            }
            let path = request.uri().path();
            if path.starts_with("/api/") || path.starts_with("/calendar/") {
                response.set_header(Header::new("Cache-Control", "no-store"));
            }
        })
    });
    // A form of a page could have its POST taken for another method; nothing here is asked by forms.
    let methods = AdHoc::on_request("methods", |request, _| {
        Box::pin(async move {
            if request.content_type().is_some_and(|kind| kind.is_form()) {
                request.set_method(Method::Post);
            }
        })
    });
    let devices = AdHoc::on_liftoff("devices", |rocket| {
        Box::pin(async move {
            let found = (rocket.state::<PgPool>(), rocket.state::<Config>());
            if let (Some(pool), Some(config)) = found {
                let listening = device::run(
                    pool.clone(),
                    config.devices,
                    config.spool.clone(),
                    rocket.shutdown(),
                );
                rocket::tokio::spawn(listening);
            }
        })
    });
    Ok(rocket::custom(figment)
        .manage(pool)
        .manage(std::sync::Arc::new(Predictor::default()))
        .manage(live::Live::default())
        .manage(front)
        .manage(config)
        .attach(log::AccessLog)
        .attach(headers)
        .attach(methods)
        .attach(devices)
        .mount("/api/v1", routes::all())
        .mount(
            "/",
            rocket::routes![static_files::serve, description, routes::calendar::read],
        )
        .register("/", rocket::catchers![problem::catch]))
}
