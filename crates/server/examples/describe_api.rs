//! Prints the OpenAPI description: `cargo run -p vatten-server --example describe_api`.

fn main() -> Result<(), serde_json::Error> {
    println!(
        "{}",
        vatten_server::openapi::description().to_pretty_json()?
    );
    Ok(())
}
