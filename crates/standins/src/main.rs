//! Starts the stand-ins for the demo: `vatten-standins KILN-PORT OVEN-PORT TESTER-PORT FOLDER`.
//!
//! A kiln at 815 °C and an oven at 205 °C speak Modbus TCP, a tester sends a reading now and then, and a
//! logger writes what is in kiln and oven to `FOLDER/logger.csv`. They live on this machine only.

use std::process::ExitCode;
use std::time::{Duration, SystemTime, UNIX_EPOCH};
use vatten_standins::furnace::Furnace;
use vatten_standins::kiln::Kiln;
use vatten_standins::logger::Logger;
use vatten_standins::tester::Tester;

/// The logger writes this often.
const LOGS_EVERY: Duration = Duration::from_secs(5);
/// The tester is pressed this often.
const TESTS_EVERY: Duration = Duration::from_secs(40);
/// What it reads about, HRC, and how that scatters.
const READINGS_HRC: [f64; 6] = [60.8, 61.4, 61.1, 60.6, 61.3, 61.0];

async fn run(ports: [u16; 3], folder: &str) -> std::io::Result<()> {
    std::fs::create_dir_all(folder)?;
    let kiln = Kiln::new(Furnace::at_heat(815.0), 1.0);
    let oven = Kiln::new(Furnace::at_heat(205.0), 1.0);
    let tester = Tester::default();
    let (_, kiln_serves) = kiln.serve(ports[0]).await?;
    let (_, oven_serves) = oven.serve(ports[1]).await?;
    let (_, tester_serves) = tester.serve(ports[2]).await?;
    let mut logger = Logger::begin(&std::path::Path::new(folder).join("logger.csv"))?;
    let logs = async move {
        loop {
            let now = SystemTime::now().duration_since(UNIX_EPOCH);
            let seconds = now.map_or(0, |d| i64::try_from(d.as_secs()).unwrap_or(0));
            logger.write(seconds, kiln.celsius(), oven.celsius())?;
            tokio::time::sleep(LOGS_EVERY).await;
        }
    };
    let tests = async move {
        for reading in READINGS_HRC.iter().cycle() {
            tokio::time::sleep(TESTS_EVERY).await;
            tester.press(*reading);
        }
    };
    println!("The stand-ins are there.");
    tokio::select! {
        ended = kiln_serves => ended,
        ended = oven_serves => ended,
        ended = tester_serves => ended,
        ended = logs => ended,
        () = tests => Ok(()),
        stopped = tokio::signal::ctrl_c() => stopped,
    }
}

#[tokio::main]
async fn main() -> ExitCode {
    tracing_subscriber::fmt()
        .with_writer(std::io::stderr)
        .init();
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let ports: Vec<u16> = arguments
        .iter()
        .take(3)
        .filter_map(|a| a.parse().ok())
        .collect();
    let (Ok(ports), Some(folder)) = (<[u16; 3]>::try_from(ports), arguments.get(3)) else {
        tracing::error!("wanted: vatten-standins KILN-PORT OVEN-PORT TESTER-PORT FOLDER");
        return ExitCode::FAILURE;
    };
    match run(ports, folder).await {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            tracing::error!("{error}");
            ExitCode::FAILURE
        }
    }
}
