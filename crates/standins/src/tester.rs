//! A hardness tester that sends a line for each test to whoever is connected.

use std::io;
use std::net::{Ipv4Addr, SocketAddr};
use tokio::io::AsyncWriteExt;
use tokio::net::TcpListener;
use tokio::sync::broadcast::{Sender, channel};

/// A tester. Clones are the same tester.
#[derive(Clone)]
pub struct Tester(Sender<String>);

impl Default for Tester {
    fn default() -> Self {
        Self(channel(64).0)
    }
}

impl Tester {
    /// A test is made: its line goes out.
    pub fn press(&self, hrc: f64) {
        self.send(&format!("HRC {hrc:.1}"));
    }

    /// Any line goes out.
    pub fn send(&self, line: &str) {
        // Nobody listening is no fault of the tester.
        let _ = self.0.send(format!("{line}\r\n"));
    }

    /// How many listen.
    #[must_use]
    pub fn listeners(&self) -> usize {
        self.0.receiver_count()
    }

    /// Serves on a port of this machine, 0 for any, until dropped.
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
        let listener = TcpListener::bind((Ipv4Addr::LOCALHOST, port)).await?;
        let address = listener.local_addr()?;
        let sender = self.0.clone();
        let serving = async move {
            loop {
                let (mut stream, _) = listener.accept().await?;
                let mut lines = sender.subscribe();
                tokio::spawn(async move {
                    while let Ok(line) = lines.recv().await {
                        if stream.write_all(line.as_bytes()).await.is_err() {
                            break;
                        }
                    }
                });
            }
        };
        Ok((address, serving))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use tokio::io::AsyncReadExt;

    #[tokio::test]
    async fn each_test_is_a_line() {
        let tester = Tester::default();
        let (address, serving) = tester.serve(0).await.unwrap();
        tokio::spawn(serving);
        let mut stream = tokio::net::TcpStream::connect(address).await.unwrap();
        while tester.listeners() == 0 {
            tokio::task::yield_now().await;
        }
        tester.press(61.26);
        let mut bytes = [0u8; 32];
        let count = stream.read(&mut bytes).await.unwrap();
        assert_eq!(&bytes[..count], b"HRC 61.3\r\n");
    }
}
