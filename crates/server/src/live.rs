//! One listener for each server process, however many pages are open.

use rocket::tokio::sync::broadcast::{Receiver, Sender, channel};
use std::sync::Once;
use std::time::Duration;
use vatten_store::PgPool;
use vatten_store::live::{Heard, Listener};

/// Changes that a slow page may fall behind before it is told to read everything anew.
const BEHIND: usize = 256;
/// Wait before the database is tried again.
const AGAIN: Duration = Duration::from_millis(500);

/// Where pages hear of changes.
pub struct Live {
    sender: Sender<Heard>,
    begun: Once,
}

impl Default for Live {
    fn default() -> Self {
        Self {
            sender: channel(BEHIND).0,
            begun: Once::new(),
        }
    }
}

impl Live {
    /// Hears of every change from now on. The first one to ask starts the listening.
    #[must_use]
    pub fn hear(&self, pool: &PgPool) -> Receiver<Heard> {
        let receiver = self.sender.subscribe();
        self.begun.call_once(|| {
            rocket::tokio::spawn(listen(pool.clone(), self.sender.clone()));
        });
        receiver
    }
}

/// Listens for as long as the process runs, over lost connections.
async fn listen(pool: PgPool, sender: Sender<Heard>) {
    loop {
        match Listener::open(&pool).await {
            Ok(mut listener) => {
                // Whoever asked before the connection stood may have missed something.
                let _ = sender.send(Heard::Gap);
                while let Ok(heard) = listener.next().await {
                    let _ = sender.send(heard);
                }
            }
            Err(error) => tracing::warn!("not listening: {error}"),
        }
        if pool.is_closed() {
            return;
        }
        rocket::tokio::time::sleep(AGAIN).await;
    }
}
