//! The chapters of the core, and that each knows only those above it: arrows between them go one way.
use std::path::{Path, PathBuf};

/// Each knows those before it, and none after.
const CHAPTERS: [&str; 10] = [
    "quantity",
    "material",
    "geometry",
    "process",
    "simulation",
    "record",
    "learning",
    "prediction",
    "advice",
    "planning",
];
/// Reads files; knows these, and nobody knows it.
const IMPORT_KNOWS: [&str; 3] = ["quantity", "geometry", "record"];

fn files(folder: &Path, into: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            files(&path, into);
        } else {
            into.push(path);
        }
    }
}

/// The chapters that the code of a file names, its tests and comments left out.
fn named(text: &str) -> Vec<&str> {
    let code = text.split("#[cfg(test)]").next().unwrap();
    let lines = code.lines().filter(|l| !l.trim_start().starts_with("//"));
    let after = lines.flat_map(|l| l.split("crate::").skip(1));
    after
        .map(|rest| {
            rest.split(|c: char| !c.is_alphanumeric() && c != '_')
                .next()
                .unwrap()
        })
        .collect()
}

#[test]
fn arrows_between_chapters_go_one_way() {
    let src = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("src");
    let mut all = Vec::new();
    files(&src, &mut all);
    let mut wrong = Vec::new();
    let mut arrows = 0;
    for file in &all {
        let inside = file.strip_prefix(&src).unwrap();
        let chapter = inside.iter().next().unwrap().to_str().unwrap();
        if matches!(chapter, "lib.rs" | "testing.rs") {
            continue;
        }
        let text = std::fs::read_to_string(file).unwrap();
        for other in named(&text) {
            let knows = if chapter == "import" {
                other == "import" || IMPORT_KNOWS.contains(&other)
            } else {
                let at = |c: &str| CHAPTERS.iter().position(|x| *x == c);
                let own = at(chapter).unwrap_or_else(|| panic!("{chapter} is no chapter"));
                at(other).is_some_and(|o| o <= own)
            };
            arrows += usize::from(other != chapter);
            if !knows {
                wrong.push(format!("{} names {other}", inside.display()));
            }
        }
    }
    assert!(arrows > 100, "only {arrows} arrows were read");
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
