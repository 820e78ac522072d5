//! A temperature controller over Modbus TCP.

use super::{ANSWERS_WITHIN, Listener, Trouble};
use rocket::tokio::time::{Duration, sleep, timeout};
use std::future::Future;
use std::net::SocketAddr;
use tokio_modbus::client::{Context, Reader, Writer, tcp};
use tokio_modbus::{Result as Answer, Slave};
use vatten_core::quantity::units::{Celsius, Quantity};
use vatten_core::record::device::{Register, RegisterMap, Table};
use vatten_store::sample;

/// How often it is asked.
const EVERY: Duration = Duration::from_secs(1);

/// What a device answered within its time.
async fn answer<T>(asked: impl Future<Output = Answer<T>>) -> Result<T, Trouble> {
    match timeout(ANSWERS_WITHIN, asked).await {
        Err(_) => Err(Trouble::Silent("It does not answer.".to_owned())),
        Ok(Err(error)) => Err(Trouble::Silent(format!("The connection broke: {error}."))),
        Ok(Ok(Err(refused))) => Err(Trouble::Silent(format!(
            "It refuses ({refused}): look at unit and registers."
        ))),
        Ok(Ok(Ok(value))) => Ok(value),
    }
}

async fn read(context: &mut Context, register: Register) -> Result<u16, Trouble> {
    let words = match register.table {
        Table::Holding => answer(context.read_holding_registers(register.address, 1)).await?,
        Table::Input => answer(context.read_input_registers(register.address, 1)).await?,
    };
    let none = || Trouble::Silent("It answers with nothing.".to_owned());
    words.first().copied().ok_or_else(none)
}

/// Asks a controller again and again, and sends it the set points that are wanted.
///
/// # Errors
/// It went silent, or the database did.
pub async fn follow(
    listener: &mut Listener,
    address: SocketAddr,
    map: &RegisterMap,
) -> Result<(), Trouble> {
    let opened = timeout(ANSWERS_WITHIN, tcp::connect_slave(address, Slave(map.unit))).await;
    let mut context = match opened {
        Ok(Ok(context)) => context,
        _ => return Err(Trouble::Silent(format!("Nothing answers at {address}."))),
    };
    loop {
        let set = match map.set_point {
            Some(register) => map.celsius(read(&mut context, register).await?).ok(),
            None => None,
        };
        match map.celsius(read(&mut context, map.temperature).await?) {
            Err(rubbish) => listener.tell(&rubbish.to_string()).await,
            Ok(shown) => {
                let set = set.map(Celsius::value);
                if let Some(wanted) = listener.heard(shown.value(), set).await? {
                    send(listener, &mut context, map, wanted).await?;
                }
            }
        }
        sleep(EVERY).await;
    }
}

/// Sends a set point, once: it is taken off its way before, so that it is not sent again when the connection
/// breaks meanwhile, and said to be dropped when that happens.
async fn send(
    listener: &mut Listener,
    context: &mut Context,
    map: &RegisterMap,
    wanted: f64,
) -> Result<(), Trouble> {
    let held = &listener.held;
    let (pool, workshop, station) = (listener.pool.clone(), held.workshop, held.station);
    if !sample::unwant(&pool, workshop, station, wanted).await? {
        // Called back, or another one took its place.
        return Ok(());
    }
    let sent = write(listener, context, map, wanted).await;
    if sent.is_err() {
        sample::dropped(&pool, workshop, station, wanted).await?;
    }
    sent
}

async fn write(
    listener: &mut Listener,
    context: &mut Context,
    map: &RegisterMap,
    wanted: f64,
) -> Result<(), Trouble> {
    let writable = map.set_point.filter(|r| r.table == Table::Holding);
    let raw = map.raw(Celsius::clamped(wanted)).ok();
    if let (Some(register), Some(raw)) = (writable, raw) {
        answer(context.write_single_register(register.address, raw)).await?;
        if read(context, register).await? != raw {
            listener
                .tell("It did not take the set point: set it by hand.")
                .await;
        }
    } else {
        listener
            .tell("Its set point cannot be written: set it by hand.")
            .await;
    }
    Ok(())
}
