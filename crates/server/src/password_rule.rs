//! Which passwords are taken: long ones that nobody guesses first. Length counts, not which kinds of characters.

use std::collections::HashSet;
use std::sync::LazyLock;
use vatten_core::quantity::validation::Faults;

/// Shortest and longest password, characters.
pub const LENGTH: (usize, usize) = (10, 200);

/// Passwords that are guessed first and are long enough to be taken otherwise, in small letters.
static KNOWN: LazyLock<HashSet<&'static str>> = LazyLock::new(|| {
    include_str!("../data/known-passwords.txt")
        .lines()
        .filter(|line| !line.is_empty() && !line.starts_with('#'))
        .collect()
});

/// Fewest different characters.
const DIFFERENT: usize = 4;

/// Checks a new password of somebody with these names and addresses.
///
/// # Errors
/// A fault at `password`.
pub fn check(password: &str, own: &[&str]) -> Result<(), Faults> {
    let count = password.chars().count();
    if !(LENGTH.0..=LENGTH.1).contains(&count) {
        return Err(Faults::with_allowed(
            "password",
            "A longer password, please: a few words are easiest.",
            format!("{} to {} characters", LENGTH.0, LENGTH.1),
        ));
    }
    let small = password.to_lowercase();
    let different: HashSet<char> = small.chars().collect();
    let is_own = own.iter().any(|name| name.trim().to_lowercase() == small);
    if is_own || different.len() < DIFFERENT || KNOWN.contains(small.as_str()) {
        let message =
            "This password is one of the first that are guessed. A few words of your own, please.";
        return Err(Faults::one("password", message));
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("orchard and harbour", true)]
    #[case("hammer on cold steel", true)]
    #[case("too short", false)]
    #[case("Password123", false)]
    #[case("1234567890", false)]
    #[case("aaaaaaaaaaaaaaaa", false)]
    #[case("smith@shop.example", false)]
    #[case("The Old Forge", false)]
    fn long_ones_that_nobody_guesses_first(#[case] password: &str, #[case] taken: bool) {
        let own = ["Smith@Shop.example", "The old forge"];
        assert_eq!(check(password, &own).is_ok(), taken);
    }

    #[test]
    fn the_list_holds_only_what_length_lets_through() {
        assert!(KNOWN.len() > 150);
        for known in KNOWN.iter() {
            assert!(known.chars().count() >= LENGTH.0, "{known}");
            assert_eq!(&known.to_lowercase(), known);
        }
    }
}
