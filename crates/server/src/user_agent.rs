//! What kind of device a browser says it runs on, in a few words: for whoever looks through their sessions.

/// Browsers by what they call themselves, the more particular first: most call themselves several.
const BROWSERS: [(&str, &str); 6] = [
    ("Firefox/", "Firefox"),
    ("FxiOS/", "Firefox"),
    ("Edg", "Edge"),
    ("CriOS/", "Chrome"),
    ("Chrome/", "Chrome"),
    ("Safari/", "Safari"),
];
/// Systems, the more particular first.
const SYSTEMS: [(&str, &str); 7] = [
    ("Android", "Android"),
    ("iPhone", "iPhone"),
    ("iPad", "iPad"),
    ("CrOS", "ChromeOS"),
    ("Windows", "Windows"),
    ("Mac OS", "macOS"),
    ("Linux", "Linux"),
];

/// A browser and a system, as far as they are known.
#[must_use]
pub fn device(user_agent: &str) -> String {
    let find = |known: &[(&str, &'static str)]| {
        known
            .iter()
            .find(|(sign, _)| user_agent.contains(sign))
            .map(|(_, name)| *name)
    };
    match (find(&BROWSERS), find(&SYSTEMS)) {
        (Some(browser), Some(system)) => format!("{browser}, {system}"),
        (Some(one), None) | (None, Some(one)) => one.to_owned(),
        (None, None) => String::new(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(
        "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0",
        "Firefox, Linux"
    )]
    #[case(
        "Mozilla/5.0 (Linux; Android 14; Tab) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0.0.0 Safari/537.36",
        "Chrome, Android"
    )]
    #[case(
        "Mozilla/5.0 (iPhone; CPU iPhone OS 18_0 like Mac OS X) AppleWebKit/605.1.15 Version/18.0 Mobile/15E148 Safari/604.1",
        "Safari, iPhone"
    )]
    #[case("curl/8.5.0", "")]
    fn a_browser_and_its_system(#[case] user_agent: &str, #[case] words: &str) {
        assert_eq!(device(user_agent), words);
    }
}
