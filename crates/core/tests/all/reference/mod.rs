//! The reference file, shared by the tests that read it.

/// Value and tolerance of a row of `data/checks.csv`, as written.
pub fn row(id: &str) -> (String, String) {
    let text = include_str!("../../../data/checks.csv");
    let mut reader = csv::ReaderBuilder::new()
        .comment(Some(b'#'))
        .from_reader(text.as_bytes());
    let row = reader
        .records()
        .map(Result::unwrap)
        .find(|row| &row[0] == id)
        .unwrap_or_else(|| panic!("no row {id}"));
    (row[3].to_owned(), row[5].to_owned())
}

/// The identifiers of all rows.
pub fn ids() -> Vec<String> {
    let text = include_str!("../../../data/checks.csv");
    let mut reader = csv::ReaderBuilder::new()
        .comment(Some(b'#'))
        .from_reader(text.as_bytes());
    reader
        .records()
        .map(|row| row.unwrap()[0].to_owned())
        .collect()
}
