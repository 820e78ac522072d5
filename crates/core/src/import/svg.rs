//! SVG drawings: everything but plain shapes is refused before the shapes are read.

use super::loops::closed;
use super::{DrawingUnit, Drawn, MAX_NUMBER, bad};
use crate::geometry::shape::Point;
use crate::quantity::validation::Faults;
use kurbo::{BezPath, PathEl};
use usvg::tiny_skia_path::PathSegment;
use usvg::{Group, Node, Options, Tree, roxmltree};

/// Most elements.
const MAX_ELEMENTS: u32 = 5000;
/// Deepest nesting.
const MAX_DEPTH: usize = 40;
/// Longest single path, bytes.
const MAX_PATH: usize = 200_000;
/// Curves are flattened to this, in screen dots.
const FLATNESS: f64 = 0.1;

/// Elements that do more than draw, or multiply what is drawn.
const REFUSED: [(&str, &str); 9] = [
    ("script", "scripts"),
    ("foreignObject", "foreign content"),
    ("image", "pictures"),
    ("use", "copies of other parts"),
    ("pattern", "patterns"),
    ("filter", "filters"),
    ("animate", "animation"),
    ("set", "animation"),
    ("iframe", "foreign content"),
];

/// Refuses deep nesting before a tree is built of it.
fn check_depth(text: &str) -> Result<(), Faults> {
    let mut depth = 0_usize;
    let bytes = text.as_bytes();
    for (i, b) in bytes.iter().enumerate() {
        match b {
            b'<' if bytes.get(i + 1) == Some(&b'/') => depth = depth.saturating_sub(1),
            b'<' if bytes.get(i + 1).is_some_and(u8::is_ascii_alphabetic) => depth += 1,
            b'/' if bytes.get(i + 1) == Some(&b'>') => depth = depth.saturating_sub(1),
            _ => {}
        }
        if depth > MAX_DEPTH {
            return Err(bad("The drawing is nested too deeply."));
        }
    }
    Ok(())
}

/// Refuses numbers that make path libraries allocate without end.
fn check_numbers(text: &str) -> Result<(), Faults> {
    let is_part = |c: char| c.is_ascii_digit() || matches!(c, '.' | 'e' | 'E' | '+' | '-');
    for token in text.split(|c: char| !is_part(c)) {
        if token.len() > 40 {
            return Err(bad("A number in the drawing is too long."));
        }
        if let Ok(value) = token.parse::<f64>()
            && !(value.is_finite() && value.abs() <= MAX_NUMBER)
        {
            return Err(bad(format!("The number {token} is out of reach.")));
        }
    }
    Ok(())
}

fn check_elements(doc: &roxmltree::Document<'_>) -> Result<(), Faults> {
    for node in doc.descendants().filter(roxmltree::Node::is_element) {
        let name = node.tag_name().name();
        if let Some((_, words)) = REFUSED.iter().find(|r| r.0.eq_ignore_ascii_case(name)) {
            return Err(bad(format!(
                "It holds {words}, which are not read. Save the outline alone, as a path."
            )));
        }
        for a in node.attributes() {
            let value = a.value();
            if a.name().len() > 2 && a.name().to_ascii_lowercase().starts_with("on") {
                return Err(bad("It holds scripts, which are not read."));
            }
            let local = value.trim_start().starts_with('#');
            if a.name() == "href" && !local {
                return Err(bad("It refers to something outside itself."));
            }
            if value.contains("url(") && !value.contains("url(#") {
                return Err(bad("It refers to something outside itself."));
            }
            if matches!(
                a.name(),
                "d" | "points"
                    | "transform"
                    | "viewBox"
                    | "width"
                    | "height"
                    | "x"
                    | "y"
                    | "r"
                    | "rx"
                    | "ry"
                    | "cx"
                    | "cy"
            ) {
                if value.len() > MAX_PATH {
                    return Err(bad("A path in it is too long."));
                }
                check_numbers(value)?;
            }
        }
        if name == "style"
            && node
                .text()
                .is_some_and(|t| t.contains("@import") || t.contains("url("))
        {
            return Err(bad("It refers to something outside itself."));
        }
    }
    Ok(())
}

/// Whether the size of the drawing is given in a real unit, so that the reader's dots are of a size.
fn has_unit(doc: &roxmltree::Document<'_>) -> bool {
    let width = doc.root_element().attribute("width").unwrap_or_default();
    ["mm", "cm", "in", "pt", "pc", "Q"]
        .iter()
        .any(|u| width.trim_end().ends_with(u))
}

fn flatten(path: &usvg::Path, all: &mut Vec<Vec<Point>>) {
    let Some(data) = path.data().clone().transform(path.abs_transform()) else {
        return;
    };
    let at = |p: usvg::tiny_skia_path::Point| (f64::from(p.x), f64::from(-p.y));
    let mut bez = BezPath::new();
    for segment in data.segments() {
        match segment {
            PathSegment::MoveTo(p) => bez.move_to(at(p)),
            PathSegment::LineTo(p) => bez.line_to(at(p)),
            PathSegment::QuadTo(a, p) => bez.quad_to(at(a), at(p)),
            PathSegment::CubicTo(a, b, p) => bez.curve_to(at(a), at(b), at(p)),
            PathSegment::Close => bez.close_path(),
        }
    }
    let mut line: Vec<Point> = Vec::new();
    let mut ended = |line: &mut Vec<Point>, said: bool| {
        all.extend(closed(std::mem::take(line), said));
    };
    kurbo::flatten(&bez, FLATNESS, |element| match element {
        PathEl::MoveTo(p) => {
            ended(&mut line, false);
            line.push([p.x, p.y]);
        }
        PathEl::LineTo(p) => line.push([p.x, p.y]),
        PathEl::ClosePath => ended(&mut line, true),
        _ => {}
    });
    ended(&mut line, false);
}

fn walk(group: &Group, all: &mut Vec<Vec<Point>>) {
    for node in group.children() {
        match node {
            Node::Group(inner) => walk(inner, all),
            Node::Path(path) => flatten(path, all),
            _ => {}
        }
    }
}

/// Reads the closed lines of an SVG drawing.
///
/// # Errors
/// A fault at `text`: scripts, pictures, references to elsewhere, document types, numbers out of reach,
/// too much or too deep, or no SVG at all.
pub fn read(text: &str) -> Result<Drawn, Faults> {
    check_depth(text)?;
    let options = roxmltree::ParsingOptions {
        nodes_limit: MAX_ELEMENTS * 4,
        ..roxmltree::ParsingOptions::default()
    };
    let doc = roxmltree::Document::parse_with_options(text, options).map_err(|e| match e {
        roxmltree::Error::DtdDetected => bad("It holds a document type, which is not read."),
        roxmltree::Error::NodesLimitReached => bad("The drawing has too many parts."),
        other => bad(format!("The drawing cannot be read: {other}.")),
    })?;
    if doc.root_element().tag_name().name() != "svg" {
        return Err(bad("This is XML, but no SVG drawing."));
    }
    check_elements(&doc)?;
    let tree = Tree::from_xmltree(&doc, &Options::default())
        .map_err(|e| bad(format!("The drawing cannot be read: {e}.")))?;
    let mut loops = Vec::new();
    walk(tree.root(), &mut loops);
    let known = has_unit(&doc);
    Ok(Drawn {
        loops,
        unit: known.then_some(DrawingUnit::Px),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    const NS: &str = "xmlns=\"http://www.w3.org/2000/svg\" width=\"100mm\" viewBox=\"0 0 100 100\"";

    #[rstest]
    #[case("<script>alert(1)</script>", "scripts")]
    #[case("<path onclick=\"x()\" d=\"M0 0h9v9z\"/>", "scripts")]
    #[case("<image href=\"file:///etc/passwd\"/>", "pictures")]
    #[case("<g><use href=\"#a\"/></g>", "copies")]
    #[case(
        "<a href=\"http://elsewhere.example\"><path d=\"M0 0h9v9z\"/></a>",
        "outside"
    )]
    #[case("<style>@import 'x.css';</style>", "outside")]
    #[case("<path fill=\"url(http://x)\" d=\"M0 0h9v9z\"/>", "outside")]
    #[case("<path d=\"M0 0 A 1e60 1e60 0 0 1 9 9 Z\"/>", "out of reach")]
    #[case("<rect width=\"1e300\" height=\"2\"/>", "out of reach")]
    #[case("<path d=\"M0 0", "cannot be read")]
    fn what_is_more_than_a_drawing_is_refused(#[case] inner: &str, #[case] words: &str) {
        let faults = read(&format!("<svg {NS}>{inner}</svg>")).unwrap_err();
        assert_eq!(faults.0[0].field, "text");
        assert!(faults.to_string().contains(words), "{faults}");
    }

    #[test]
    fn bombs_are_refused_before_they_are_built() {
        let deep = format!(
            "<svg {NS}>{}{}</svg>",
            "<g>".repeat(5000),
            "</g>".repeat(5000)
        );
        assert!(read(&deep).unwrap_err().to_string().contains("deep"));
        let entity = format!("<!DOCTYPE svg [<!ENTITY a \"aaaa\">]><svg {NS}>&a;</svg>");
        assert!(
            read(&entity)
                .unwrap_err()
                .to_string()
                .contains("document type")
        );
        let many = format!("<svg {NS}>{}</svg>", "<rect/>".repeat(30_000));
        assert!(read(&many).unwrap_err().to_string().contains("too many"));
        let long = format!(
            "<svg {NS}><path d=\"M0 0{}z\"/></svg>",
            "h1".repeat(110_000)
        );
        assert!(read(&long).unwrap_err().to_string().contains("too long"));
    }

    #[test]
    fn shapes_transforms_and_units_are_read() {
        let text = format!(
            "<svg {NS} ><g transform=\"translate(10 0)\"><rect width=\"50\" height=\"20\"/></g><circle r=\"5\"/></svg>"
        );
        let found = read(&text).unwrap();
        assert_eq!((found.loops.len(), found.unit), (2, Some(DrawingUnit::Px)));
        let px = 96.0 / 25.4;
        let widest = found.loops[0].iter().map(|p| p[0]).fold(0.0, f64::max);
        assert!((widest - 60.0 * px).abs() < 0.1, "{widest}");
    }

    proptest! {
        #[test]
        fn any_text_is_answered(text in "[<>/a-z\"= 0-9.eMLZ#&;-]{0,200}") {
            let _ = read(&text);
            let _ = read(&format!("<svg {NS}>{text}</svg>"));
        }

        #[test]
        fn any_path_is_answered(d in "[MmLlHhVvCcQqAaZz0-9 .,e-]{0,120}") {
            let _ = read(&format!("<svg {NS}><path d=\"{d}\"/></svg>"));
        }
    }
}
