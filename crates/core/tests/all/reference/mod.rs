//! The reference file, shared by the tests that read it.

const CHECKS: &str = include_str!("../../../data/checks.csv");

/// The rows of a reference file: comma-separated, with a head, and remarks after #.
pub fn records(text: &str) -> Vec<csv::StringRecord> {
    let mut reader = csv::ReaderBuilder::new()
        .comment(Some(b'#'))
        .from_reader(text.as_bytes());
    reader.records().map(Result::unwrap).collect()
}

/// Value and tolerance of a row of `data/checks.csv`, as written.
pub fn row(id: &str) -> (String, String) {
    let row = records(CHECKS)
        .into_iter()
        .find(|row| &row[0] == id)
        .unwrap_or_else(|| panic!("no row {id}"));
    (row[3].to_owned(), row[5].to_owned())
}

/// The identifiers of all rows.
pub fn ids() -> Vec<String> {
    let all = records(CHECKS).into_iter();
    all.map(|row| row[0].to_owned()).collect()
}
