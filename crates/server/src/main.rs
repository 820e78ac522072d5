//! `vatten-server` serves.

use std::process::ExitCode;
use tracing::level_filters::LevelFilter;
use vatten_server::config::{Config, LogFormat};

async fn serve() -> Result<(), String> {
    let config = Config::from_env()?;
    let waiting = || tracing::warn!("the database does not answer yet: waiting for it");
    let pool = vatten_store::open(&config.database_url, config.connections, waiting)
        .await
        .map_err(|e| format!("the database cannot be used: {e}"))?;
    if let Some(file) = &config.demo
        && vatten_server::demo::load(&pool, file).await?
    {
        println!("The demo shop was loaded.");
    }
    if let Some(ports) = config.standins {
        vatten_server::demo::connect(&pool, ports).await?;
    }
    let (address, port) = (config.address, config.port);
    let rocket = vatten_server::rocket(pool, config)?;
    let rocket = rocket.attach(rocket::fairing::AdHoc::on_liftoff("say", move |_| {
        Box::pin(async move { println!("Listening on http://{address}:{port}") })
    }));
    let ignited = rocket.ignite().await.map_err(|e| e.to_string())?;
    ignited.launch().await.map_err(|e| match e.kind() {
        rocket::error::ErrorKind::Bind(_) => format!("port {port} on {address} is taken"),
        other => other.to_string(),
    })?;
    Ok(())
}

#[rocket::main]
async fn main() -> ExitCode {
    let log = vatten_server::config::log_from_env();
    let (level, format) = log.clone().unwrap_or((LevelFilter::INFO, LogFormat::Text));
    vatten_server::log::start(level, format);
    let done = match log {
        Ok(_) => serve().await,
        Err(sentence) => Err(sentence),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(sentence) => {
            tracing::error!("{sentence}");
            ExitCode::FAILURE
        }
    }
}
