//! What steels are called in other standards, and finding one by any of its names.

use crate::material::steel::Steel;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;

/// How like the steel of the table one of this designation is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Likeness {
    /// The same analysis.
    Exact,
    /// It differs within what the spread of a mill may be.
    Near,
}

/// A name of a steel in another standard.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Designation {
    /// The standard, for example `EN number`.
    pub standard: String,
    /// The name, for example `1.2510`.
    pub designation: String,
    /// How like it is.
    #[serde(rename = "match")]
    pub likeness: Likeness,
}

#[derive(Deserialize)]
struct Row {
    id: String,
    standard: String,
    designation: String,
    #[serde(rename = "match")]
    likeness: Likeness,
}

/// Each with the key of its steel, as `data/designations.csv` has them from the standards it names.
fn rows() -> Vec<(String, Designation)> {
    let mut reader = csv::ReaderBuilder::new()
        .comment(Some(b'#'))
        .from_reader(include_str!("../../data/designations.csv").as_bytes());
    // The file is compiled in; a test holds that every row of it is read.
    let rows = reader.deserialize().filter_map(Result::ok);
    rows.map(|row: Row| {
        let designation = Designation {
            standard: row.standard,
            designation: row.designation,
            likeness: row.likeness,
        };
        (row.id, designation)
    })
    .collect()
}

/// The rows, and the European names that only the table of steels has beside a steel: none of them is said
/// there to be the same analysis.
static TABLE: LazyLock<Vec<(String, Designation)>> = LazyLock::new(|| {
    let mut all = rows();
    for steel in Steel::table() {
        let words = steel.equivalent.split([' ', '(', ')', '~']);
        for word in words.filter(|w| !w.is_empty()) {
            let same = |name: &str| plain(name) == plain(word);
            let known = |t: &(String, Designation)| t.0 == steel.key && same(&t.1.designation);
            if !all.iter().any(known) && !same(&steel.name) {
                let designation = Designation {
                    standard: "EN".to_owned(),
                    designation: word.to_owned(),
                    likeness: Likeness::Near,
                };
                all.push((steel.key.clone(), designation));
            }
        }
    }
    all
});

/// The other designations of a built-in steel, in the order of the table.
pub fn designations_of(key: &str) -> impl Iterator<Item = &'static Designation> {
    TABLE.iter().filter(move |t| t.0 == key).map(|t| &t.1)
}

/// How well a name fits what was typed, best first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Fit {
    /// It is the name.
    Whole,
    /// The name begins so.
    Beginning,
    /// It stands in the name.
    Within,
}

/// Letters and digits only, in lower case: `100 Cr-6` is `100cr6`.
fn plain(text: &str) -> String {
    let kept = text.chars().filter(|c| c.is_alphanumeric());
    kept.flat_map(char::to_lowercase).collect()
}

/// How well `name` fits `typed`; none when it does not, or nothing was typed.
#[must_use]
pub fn fit(name: &str, typed: &str) -> Option<Fit> {
    let (name, typed) = (plain(name), plain(typed));
    if typed.is_empty() {
        None
    } else if name == typed {
        Some(Fit::Whole)
    } else if name.starts_with(&typed) {
        Some(Fit::Beginning)
    } else {
        name.contains(&typed).then_some(Fit::Within)
    }
}

/// A built-in steel that was found by one of its names.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Found {
    /// The steel.
    pub steel: &'static Steel,
    /// The designation it was found by; none when it was by its own name.
    pub by: Option<&'static Designation>,
    /// How well that fits.
    pub fit: Fit,
}

/// The built-in steels that a name fits, each once by the name that fits best: whole names first, its own
/// before another standard's, the same analysis before a near one.
///
/// ```
/// use vatten_core::material::designation::{Likeness, search};
/// let found = search("1.2510");
/// assert_eq!(found[0].steel.key, "o1");
/// assert_eq!(found[0].by.unwrap().likeness, Likeness::Near);
/// assert!(search("").is_empty());
/// ```
#[must_use]
pub fn search(typed: &str) -> Vec<Found> {
    let best = |steel: &'static Steel| {
        let own = fit(&steel.name, typed).map(|fit| (fit, None));
        let others = designations_of(&steel.key)
            .filter_map(|d| Some((fit(&d.designation, typed)?, Some(d))));
        let rank = |f: &(Fit, Option<&Designation>)| (f.0, f.1.map(|d| d.likeness));
        let (fit, by) = own.into_iter().chain(others).min_by_key(rank)?;
        Some(Found { steel, by, fit })
    };
    let mut found: Vec<Found> = Steel::table().iter().filter_map(best).collect();
    found.sort_by_key(|f| (f.fit, f.by.map(|d| d.likeness)));
    found
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[test]
    fn the_whole_table_is_read() {
        let lines = include_str!("../../data/designations.csv").lines();
        assert_eq!(
            rows().len(),
            lines.filter(|l| !l.starts_with('#')).count() - 1
        );
        let key = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
        assert!(TABLE.iter().all(|t| t.0.chars().all(key)), "{TABLE:?}");
    }

    #[rstest]
    #[case("1084", "1084", None)]
    #[case("C85S", "1084", Some(Likeness::Near))]
    #[case("1.2235", "80crv2", Some(Likeness::Exact))]
    #[case(" 12 235 ", "80crv2", Some(Likeness::Exact))]
    #[case("SUJ2", "52100", Some(Likeness::Near))]
    #[case("100 cr 6", "52100", Some(Likeness::Near))]
    #[case("t31501", "o1", Some(Likeness::Exact))]
    fn a_steel_is_found_by_any_standards_name(
        #[case] typed: &str,
        #[case] key: &str,
        #[case] likeness: Option<Likeness>,
    ) {
        let first = search(typed)[0];
        assert_eq!(first.steel.key, key);
        assert_eq!(first.by.map(|d| d.likeness), likeness);
    }

    #[test]
    fn every_name_finds_its_own_steel_whole() {
        let table: Vec<&str> = Steel::table().iter().map(|s| s.key.as_str()).collect();
        for (key, d) in TABLE.iter().filter(|t| table.contains(&t.0.as_str())) {
            let found = search(&d.designation);
            let own = found.iter().find(|f| f.steel.key == *key);
            assert!(own.is_some_and(|f| f.fit == Fit::Whole), "{key}: {d:?}");
        }
    }

    #[test]
    fn what_the_table_of_steels_calls_it_finds_it() {
        for steel in Steel::table() {
            let words = steel.equivalent.split([' ', '(', ')', '~']);
            for word in words.filter(|w| !w.is_empty()) {
                let found = search(word);
                let own = found.iter().find(|f| f.steel.key == steel.key);
                assert!(own.is_some_and(|f| f.fit == Fit::Whole), "{word}");
            }
        }
        let first = search("C105V")[0];
        assert_eq!(first.steel.key, "w2");
        assert_eq!(first.by.map(|d| d.likeness), Some(Likeness::Near));
    }

    #[test]
    fn a_steel_is_there_once_and_whole_names_come_first() {
        let found = search("10");
        let mut keys: Vec<&str> = found.iter().map(|f| f.steel.key.as_str()).collect();
        assert!(found.is_sorted_by_key(|f| f.fit), "{keys:?}");
        keys.sort_unstable();
        let all = keys.len();
        keys.dedup();
        assert!(keys.len() == all && all > 5);
        assert!(search("treacle").is_empty() && search(" -").is_empty());
    }
}
