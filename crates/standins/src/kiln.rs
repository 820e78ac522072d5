//! A kiln controller speaking Modbus TCP, with a furnace behind it.
//!
//! Input register 0: temperature in tenths of a degree Celsius. Holding register 0: set point in the same.
//! Holding register 1: writing a number of grams puts so much cold steel in, as if the door were opened.

use crate::furnace::Furnace;
use std::future::{Ready, ready};
use std::io;
use std::net::SocketAddr;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Instant;
use tokio::net::TcpListener;
use tokio_modbus::server::Service;
use tokio_modbus::server::tcp::{Server, accept_tcp_connection};
use tokio_modbus::{ExceptionCode, Request, Response};

struct State {
    furnace: Furnace,
    seen: Instant,
    /// How many seconds of the furnace pass in one.
    pace: f64,
    broken_sensor: bool,
}

/// A kiln. Clones are the same kiln.
#[derive(Clone)]
pub struct Kiln(Arc<Mutex<State>>);

impl Kiln {
    /// A kiln with a furnace whose time runs `pace` times as fast as the clock.
    #[must_use]
    pub fn new(furnace: Furnace, pace: f64) -> Self {
        Self(Arc::new(Mutex::new(State {
            furnace,
            seen: Instant::now(),
            pace,
            broken_sensor: false,
        })))
    }

    fn with<T>(&self, work: impl FnOnce(&mut State) -> T) -> T {
        let mut state = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let gone = state.seen.elapsed().as_secs_f64() * state.pace;
        state.seen = Instant::now();
        state.furnace.run(gone);
        work(&mut state)
    }

    /// Its temperature now, °C.
    #[must_use]
    pub fn celsius(&self) -> f64 {
        self.with(|s| s.furnace.chamber_c)
    }

    /// Its set point, °C.
    #[must_use]
    pub fn set_c(&self) -> f64 {
        self.with(|s| s.furnace.set_c)
    }

    /// Cold steel goes in, kg.
    pub fn load(&self, kilograms: f64) {
        self.with(|s| s.furnace.load(kilograms));
    }

    /// From now on its sensor is broken, or not: it then sends the largest number there is.
    pub fn break_sensor(&self, broken: bool) {
        self.with(|s| s.broken_sensor = broken);
    }

    fn answer(&self, request: Request<'_>) -> Result<Response, ExceptionCode> {
        let tenths = |celsius: f64| ((10.0 * celsius).round() as i16).cast_unsigned();
        self.with(|state| match request {
            Request::ReadInputRegisters(0, 1) if state.broken_sensor => {
                Ok(Response::ReadInputRegisters(vec![0x7fff]))
            }
            Request::ReadInputRegisters(0, 1) => Ok(Response::ReadInputRegisters(vec![tenths(
                state.furnace.chamber_c,
            )])),
            Request::ReadHoldingRegisters(0, 1) => {
                Ok(Response::ReadHoldingRegisters(vec![tenths(
                    state.furnace.set_c,
                )]))
            }
            Request::WriteSingleRegister(0, raw) => {
                let set = f64::from(i16::from_ne_bytes(raw.to_ne_bytes())) / 10.0;
                if !(0.0..=1200.0).contains(&set) {
                    return Err(ExceptionCode::IllegalDataValue);
                }
                state.furnace.set_c = set;
                Ok(Response::WriteSingleRegister(0, raw))
            }
            Request::WriteSingleRegister(1, grams) => {
                state.furnace.load(f64::from(grams) / 1000.0);
                Ok(Response::WriteSingleRegister(1, grams))
            }
            Request::ReadInputRegisters(..)
            | Request::ReadHoldingRegisters(..)
            | Request::WriteSingleRegister(..) => Err(ExceptionCode::IllegalDataAddress),
            _ => Err(ExceptionCode::IllegalFunction),
        })
    }

    /// Serves on a port of this machine, 0 for any; answers with its address and the serving, which ends
    /// when it is dropped.
    ///
    /// # Errors
    /// The port is taken.
    pub async fn serve(
        &self,
        port: u16,
    ) -> io::Result<(
        SocketAddr,
        impl Future<Output = io::Result<()>> + Send + use<>,
    )> {
        let listener = TcpListener::bind((std::net::Ipv4Addr::LOCALHOST, port)).await?;
        let address = listener.local_addr()?;
        let kiln = self.clone();
        let serving = async move {
            let accept = move |stream, from| {
                let kiln = kiln.clone();
                async move { accept_tcp_connection(stream, from, move |_| Ok(Some(kiln.clone()))) }
            };
            let failed = |error: io::Error| tracing::warn!("kiln: {error}");
            Server::new(listener).serve(&accept, failed).await
        };
        Ok((address, serving))
    }
}

impl Service for Kiln {
    type Request = Request<'static>;
    type Response = Response;
    type Exception = ExceptionCode;
    type Future = Ready<Result<Response, ExceptionCode>>;

    fn call(&self, request: Self::Request) -> Self::Future {
        ready(self.answer(request))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn its_registers_are_as_described() {
        let kiln = Kiln::new(Furnace::cold(815.0), 0.0);
        let read = |request| kiln.answer(request);
        let temperature = Request::ReadInputRegisters(0, 1);
        assert_eq!(
            read(temperature),
            Ok(Response::ReadInputRegisters(vec![200]))
        );
        assert!(read(Request::WriteSingleRegister(0, 2050)).is_ok());
        assert_eq!(kiln.set_c(), 205.0);
        let too_hot = Request::WriteSingleRegister(0, 13_000);
        assert_eq!(read(too_hot), Err(ExceptionCode::IllegalDataValue));
        let nowhere = Request::ReadHoldingRegisters(9, 1);
        assert_eq!(read(nowhere), Err(ExceptionCode::IllegalDataAddress));
    }
}
