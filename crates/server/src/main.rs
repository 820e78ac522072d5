//! `vatten-server` serves; `vatten-server openapi` prints the description of the API.

use std::process::ExitCode;
use vatten_server::config::Config;

async fn serve() -> Result<(), String> {
    let config = Config::from_env()?;
    let pool = vatten_store::open(&config.database_url, config.connections)
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
    if std::env::args().nth(1).as_deref() == Some("openapi") {
        return match vatten_server::openapi::description().to_pretty_json() {
            Ok(json) => {
                println!("{json}");
                ExitCode::SUCCESS
            }
            Err(error) => {
                eprintln!("vatten: {error}");
                ExitCode::FAILURE
            }
        };
    }
    match serve().await {
        Ok(()) => ExitCode::SUCCESS,
        Err(sentence) => {
            eprintln!("vatten: {sentence}");
            ExitCode::FAILURE
        }
    }
}
