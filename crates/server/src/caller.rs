//! Who waits for an answer that takes a while: when they have gone, what is computed for them is dropped.
//!
//! The web server tells nobody that a client has gone while it is still asked, and a status that was sent
//! cannot be taken back. So the kernel is asked: it knows whether the connection still stands.

use crate::problem::Problem;
use rocket::Request;
use rocket::http::Status;
use rocket::request::{FromRequest, Outcome};
use rocket::tokio::{fs, time::timeout};
use std::convert::Infallible;
use std::future::Future;
use std::net::{IpAddr, SocketAddr};
use std::time::Duration;

/// How often it is looked whether they still wait.
const EVERY: Duration = Duration::from_millis(250);
/// The connections of this machine, by the kernel: version 4 and 6.
const CONNECTIONS: [&str; 2] = ["/proc/net/tcp", "/proc/net/tcp6"];
/// A connection that stands, in those tables.
const ESTABLISHED: &str = "01";

/// Whoever asked.
#[derive(Debug, Clone, Copy)]
pub struct Caller(Option<SocketAddr>);

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Caller {
    type Error = Infallible;

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, Infallible> {
        Outcome::Success(Self(request.remote()))
    }
}

/// An address as the tables write it, on its own and as version 6 carries it.
fn written(address: SocketAddr) -> [String; 2] {
    let words = |octets: &[u8]| -> String {
        octets
            .chunks_exact(4)
            .map(|w| format!("{:08X}", u32::from_ne_bytes([w[0], w[1], w[2], w[3]])))
            .collect()
    };
    let port = address.port();
    let (own, within) = match address.ip() {
        IpAddr::V4(ip) => (words(&ip.octets()), words(&ip.to_ipv6_mapped().octets())),
        IpAddr::V6(ip) => (words(&ip.octets()), words(&ip.octets())),
    };
    [format!("{own}:{port:04X}"), format!("{within}:{port:04X}")]
}

/// Whether a table holds a standing connection from there.
fn stands(table: &str, from: &[String; 2]) -> bool {
    table.lines().skip(1).any(|line| {
        let mut cells = line.split_whitespace().skip(2);
        let (remote, state) = (cells.next(), cells.next());
        state == Some(ESTABLISHED) && remote.is_some_and(|r| from.iter().any(|f| f == r))
    })
}

impl Caller {
    /// They have gone, as far as the kernel says; where it says nothing they are taken to wait.
    async fn has_left(self) -> bool {
        let Some(from) = self.0.map(written) else {
            return false;
        };
        let mut table_read = false;
        for path in CONNECTIONS {
            if let Ok(table) = fs::read_to_string(path).await {
                table_read = true;
                if stands(&table, &from) {
                    return false;
                }
            }
        }
        table_read
    }

    /// What `work` ends in; it is dropped when they have gone.
    ///
    /// # Errors
    /// As `work`; or they have gone.
    pub async fn wait<T>(
        self,
        work: impl Future<Output = Result<T, Problem>>,
    ) -> Result<T, Problem> {
        let mut work = std::pin::pin!(work);
        loop {
            if let Ok(done) = timeout(EVERY, &mut work).await {
                return done;
            }
            if self.has_left().await {
                return Err(Problem::new(
                    Status::RequestTimeout,
                    "Nobody waits for this any more.",
                ));
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rocket::tokio;
    use rocket::tokio::net::{TcpListener, TcpStream};
    use std::sync::Arc;
    use std::sync::atomic::{AtomicBool, Ordering};

    struct Dropped(Arc<AtomicBool>);

    impl Drop for Dropped {
        fn drop(&mut self) {
            self.0.store(true, Ordering::Relaxed);
        }
    }

    #[test]
    fn addresses_are_written_as_the_kernel_writes_them() {
        let table = "  sl  local_address rem_address   st tx_queue rx_queue tr\n   0: 0100007F:1F90 0100007F:D431 01 00000000:00000000 00\n   1: 0100007F:1F90 0100007F:D432 08 00000000:00000000 00\n";
        if cfg!(target_endian = "little") {
            let from = |port| written(SocketAddr::from(([127, 0, 0, 1], port)));
            assert!(stands(table, &from(0xD431)));
            assert!(!stands(table, &from(0xD432)));
            assert!(!stands(table, &from(0x1F90)));
        }
    }

    #[tokio::test]
    async fn the_status_of_a_failure_is_its_own() {
        let nobody = Caller(None);
        let failed = nobody
            .wait(async {
                tokio::time::sleep(EVERY + EVERY / 2).await;
                Err::<(), _>(Problem::not_found())
            })
            .await;
        assert_eq!(failed.unwrap_err().status, 404);
    }

    #[tokio::test]
    async fn what_is_computed_goes_with_whoever_waited() {
        let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
        let client = TcpStream::connect(listener.local_addr().unwrap())
            .await
            .unwrap();
        let (server, from) = listener.accept().await.unwrap();
        let gone = Arc::new(AtomicBool::new(false));
        let guard = Dropped(Arc::clone(&gone));
        let waiting = tokio::spawn(Caller(Some(from)).wait(async move {
            let _guard = guard;
            std::future::pending::<Result<(), Problem>>().await
        }));
        tokio::time::sleep(EVERY * 3).await;
        assert!(!waiting.is_finished() && !gone.load(Ordering::Relaxed));
        drop(client);
        let ended = timeout(EVERY * 12, waiting).await.unwrap().unwrap();
        assert_eq!(ended.unwrap_err().status, 408);
        assert!(gone.load(Ordering::Relaxed));
        drop(server);
    }
}
