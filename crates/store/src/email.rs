//! Addresses that people sign in with.

/// An address as it is compared, at signing up as at signing in: databases lower letters in their own ways.
#[must_use]
pub fn key(email: &str) -> String {
    email.trim().to_lowercase()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn capital_letters_are_no_difference() {
        assert_eq!(key(" Smith@Shop.Example "), "smith@shop.example");
        // Some lower to two characters; they are the same each time.
        assert_eq!(key("\u{130}@shop.example"), "i\u{307}@shop.example");
        assert_eq!(
            key(&key("\u{130}@shop.example")),
            key("\u{130}@shop.example")
        );
    }
}
