//! A temperature log as loggers write it: text in columns, each logger in its own way. Columns are
//! recognised from their headings and from what stands in them, or chosen; what is odd is told and nothing
//! is made up.

use crate::quantity::validation::Faults;
use crate::record::trace::{GAP_S, Sample};
use serde::{Deserialize, Serialize};

/// Largest log, bytes.
pub const MAX_BYTES: usize = 4_000_000;
/// Most rows.
const MAX_ROWS: usize = 200_000;
/// Most columns.
const MAX_COLUMNS: usize = 40;
/// Most samples that are kept: of more, those that tell most.
pub const MAX_SAMPLES: usize = 6_000;
/// Rows looked at to recognise columns.
const LOOKED_AT: usize = 60;
/// Hotter than this nobody treats steel, °C: a column that goes higher anywhere is in °F, unless it was said
/// to be in °C.
const TOO_HOT_C: f64 = 1300.0;
/// Hotter than this no thermocouple shows, °C: a broken one, or no temperature at all.
const NO_TEMPERATURE_C: f64 = 2400.0;

/// Which column is what.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Columns {
    /// The time, or the date when the time stands in the next column.
    pub time: usize,
    /// The time of day, when date and time stand apart.
    #[serde(default)]
    pub clock: Option<usize>,
    /// The temperature.
    pub temperature: usize,
    /// It is in °F.
    #[serde(default)]
    pub fahrenheit: bool,
}

/// A log that was read.
#[derive(Debug, Clone, PartialEq)]
pub struct Log {
    /// Headings, or `column 1` and so on.
    pub headings: Vec<String>,
    /// First rows as they stand, to choose columns by.
    pub first_rows: Vec<Vec<String>>,
    /// What was taken for what.
    pub columns: Columns,
    /// Samples by rising time. Times are UTC, or counted from zero when the log has no dates.
    pub samples: Vec<Sample>,
    /// True when the log has dates.
    pub dated: bool,
    /// True when its times say how they lie to UTC; others are a clock on the wall, taken as UTC here.
    pub zoned: bool,
    /// What was odd.
    pub notes: Vec<LogNote>,
}

/// Something odd in a log, and what was made of it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum LogNote {
    /// Rows without a time or a temperature are left out.
    RowsLeftOut {
        /// How many.
        rows: usize,
    },
    /// Rows that name another unit than the rest are turned into the same.
    OtherUnit {
        /// How many.
        rows: usize,
        /// They name °F; else °C.
        fahrenheit: bool,
    },
    /// The clock went back: time is taken to go on.
    ClockWentBack {
        /// How often.
        times: usize,
    },
    /// It goes past midnight.
    PastMidnight {},
    /// It goes hotter than steel is treated: it may be in °F.
    TooHot {
        /// The hottest, °C.
        hottest_c: f64,
    },
    /// A time without samples, which is not counted.
    Gap {
        /// How long, s.
        gap_s: f64,
        /// About an hour: a clock may have been put forward.
        clock_put_forward: bool,
    },
    /// More gaps than are named.
    MoreGaps {
        /// How many more.
        gaps: usize,
    },
    /// Of each stretch the hottest and the coolest sample are kept.
    Thinned {
        /// Samples that were read.
        samples_read: usize,
    },
}

/// A moment as written: ms since 1970 when dated, since midnight or since the start otherwise.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Moment {
    ms: i64,
    dated: bool,
    /// It says how it lies to UTC.
    zoned: bool,
}

/// Days since 1970 of a date (Howard Hinnant's algorithm, public domain); None when it is none.
fn days(year: i64, month: i64, day: i64) -> Option<i64> {
    if !(1..=12).contains(&month) || !(1..=31).contains(&day) || !(1970..=2200).contains(&year) {
        return None;
    }
    let y = if month <= 2 { year - 1 } else { year };
    let era = y.div_euclid(400);
    let yoe = y.rem_euclid(400);
    let doy = (153 * (if month > 2 { month - 3 } else { month + 9 }) + 2) / 5 + day - 1;
    let doe = yoe * 365 + yoe / 4 - yoe / 100 + doy;
    Some(era * 146_097 + doe - 719_468)
}

fn number(text: &str) -> Option<f64> {
    let text = text.trim().replace(',', ".").replace('\u{2212}', "-");
    text.parse()
        .ok()
        .filter(|v: &f64| v.is_finite() && v.abs() < 1e15)
}

/// A date: year first, or day first with dots, or month first with strokes unless that cannot be.
fn date(text: &str) -> Option<i64> {
    let separator = text.chars().find(|c| matches!(c, '-' | '.' | '/'))?;
    let parts: Vec<i64> = text
        .split(separator)
        .map(|p| p.trim().parse().ok())
        .collect::<Option<_>>()?;
    let [a, b, c] = parts[..] else { return None };
    let full = |y: i64| if y < 100 { 2000 + y } else { y };
    match (a > 31, separator) {
        (true, _) => days(a, b, c),
        (false, '/') if a <= 12 => days(full(c), a, b),
        (false, _) => days(full(c), b, a),
    }
}

/// A time of day or a span with colons, ms.
fn clock(text: &str) -> Option<i64> {
    let text = text.trim();
    let (text, noon) = match text
        .get(text.len().saturating_sub(2)..)
        .map(str::to_ascii_lowercase)
    {
        Some(end) if end == "pm" => (&text[..text.len() - 2], Some(true)),
        Some(end) if end == "am" => (&text[..text.len() - 2], Some(false)),
        _ => (text, None),
    };
    let text = text.trim().trim_end_matches('Z');
    let parts: Vec<f64> = text.split(':').map(number).collect::<Option<_>>()?;
    let (mut hours, minutes, seconds) = match parts[..] {
        [h, m] => (h, m, 0.0),
        [h, m, s] => (h, m, s),
        _ => return None,
    };
    match noon {
        Some(true) if hours < 12.0 => hours += 12.0,
        Some(false) if hours >= 12.0 => hours -= 12.0,
        _ => {}
    }
    let fits = (0.0..10_000.0).contains(&hours)
        && (0.0..60.0).contains(&minutes)
        && (0.0..61.0).contains(&seconds);
    fits.then(|| ((hours * 3600.0 + minutes * 60.0 + seconds) * 1000.0).round() as i64)
}

/// A moment in one cell: a date with a time, a time, or a number of seconds (of `unit_s`).
fn moment(text: &str, unit_s: f64) -> Option<Moment> {
    let text = text.trim();
    if let Some((day, rest)) = text
        .split_once(['T', ' '])
        .filter(|(day, _)| date(day).is_some())
    {
        // An offset from UTC after the time is taken off.
        let at = rest.rfind(['+', '-']).filter(|i| *i > 4);
        let (time, offset) = at.map_or((rest, 0), |i| {
            let minutes = clock(&rest[i + 1..]).unwrap_or(0);
            (
                &rest[..i],
                if rest[i..].starts_with('-') {
                    -minutes
                } else {
                    minutes
                },
            )
        });
        return Some(Moment {
            ms: date(day)? * 86_400_000 + clock(time)? - offset,
            dated: true,
            zoned: at.is_some() || rest.ends_with('Z'),
        });
    }
    if text.contains(':') {
        return Some(Moment {
            ms: clock(text)?,
            dated: false,
            zoned: false,
        });
    }
    let value = number(text)?;
    // Since 1970, in ms or in s; otherwise since the start.
    if (1e12..1e14).contains(&value) {
        Some(Moment {
            ms: value as i64,
            dated: true,
            zoned: true,
        })
    } else if (1e9..1e11).contains(&value) {
        Some(Moment {
            ms: (1000.0 * value) as i64,
            dated: true,
            zoned: true,
        })
    } else {
        Some(Moment {
            ms: (1000.0 * unit_s * value).round() as i64,
            dated: false,
            zoned: false,
        })
    }
}

/// A temperature with the unit that stands by it, °C; the second is true when the cell said °F.
fn temperature(text: &str, fahrenheit: bool) -> Option<(f64, bool)> {
    let tidy = text
        .trim()
        .trim_end_matches('.')
        .replace(['°', 'º', ' '], "");
    let (digits, f) = match tidy.chars().last() {
        Some('F' | 'f') => (&tidy[..tidy.len() - 1], true),
        Some('C' | 'c') => (&tidy[..tidy.len() - 1], false),
        _ => (tidy.as_str(), fahrenheit),
    };
    let value = number(digits)?;
    let celsius = if f { (value - 32.0) / 1.8 } else { value };
    (-200.0..=NO_TEMPERATURE_C)
        .contains(&celsius)
        .then_some((celsius, f))
}

fn delimiter(text: &str) -> u8 {
    let count = |d: char| {
        text.lines()
            .take(20)
            .map(|l| l.matches(d).count())
            .sum::<usize>()
    };
    let all = [
        (';', count(';') * 3),
        ('\t', count('\t') * 3),
        (',', count(',')),
    ];
    let best = all.iter().max_by_key(|d| d.1).map_or(',', |d| d.0);
    best as u8
}

/// Seconds that one stands for in a time column with this heading.
fn unit_s(heading: &str) -> f64 {
    let h = heading.to_lowercase();
    if h.contains("ms") || h.contains("milli") {
        1e-3
    } else if h.contains("min") {
        60.0
    } else if h.contains("hour") || h.ends_with("(h)") || h.ends_with("[h]") {
        3600.0
    } else {
        1.0
    }
}

/// Recognises the columns of rows under headings.
fn recognise(headings: &[String], rows: &[Vec<String>]) -> Result<Columns, Faults> {
    let column = |i: usize| rows.iter().take(LOOKED_AT).filter_map(move |r| r.get(i));
    let share = |i: usize, good: &dyn Fn(&str) -> bool| {
        let all = column(i).count().max(1);
        column(i).filter(|c| good(c)).count() as f64 / all as f64
    };
    let says = |i: usize, words: &[&str]| {
        let h = headings[i].to_lowercase();
        words.iter().any(|w| h.contains(w))
    };
    let columns = 0..headings.len();
    let timed = |c: &str| c.contains(':') && moment(c, 1.0).is_some();
    let only_date = |c: &str| !c.contains(':') && date(c).is_some();
    let (mut time, mut apart) = (None, None);
    if let Some(i) = columns.clone().find(|i| share(*i, &only_date) > 0.8) {
        apart = columns.clone().find(|j| *j != i && share(*j, &timed) > 0.8);
        time = apart.map(|_| i);
    }
    let time = time
        .or_else(|| columns.clone().find(|i| share(*i, &timed) > 0.8))
        .or_else(|| {
            let named = |i: &usize| {
                says(
                    *i,
                    &[
                        "time", "sec", "zeit", "tid", "min", "elapsed", "stamp", "[s]", "(s)",
                    ],
                )
            };
            let numbers = |i: &usize| share(*i, &|c| moment(c, 1.0).is_some()) > 0.8;
            columns.clone().find(|i| named(i) && numbers(i))
        });
    let Some(time) = time else {
        let sentence = "No column of times was found. Say which it is.";
        return Err(Faults::one("columns", sentence));
    };
    let warm = |i: &usize| {
        *i != time
            && Some(*i) != apart
            && share(*i, &|c| {
                temperature(c, false).is_some() || temperature(c, true).is_some()
            }) > 0.6
    };
    let wanted = [
        "temp", "°c", "°f", "t1", "pv", "actual", "probe", "thermo", "celsius",
    ];
    let set = ["set", "sp", "target", "soll"];
    let named = |i: &usize| says(*i, &wanted) && !says(*i, &set);
    let column = columns
        .clone()
        .find(|i| warm(i) && named(i))
        .or_else(|| columns.clone().find(|i| warm(i) && !says(*i, &set)));
    let Some(temperature_at) = column else {
        let sentence = "No column of temperatures was found. Say which it is.";
        return Err(Faults::one("columns", sentence));
    };
    let h = headings[temperature_at].to_lowercase();
    let named_f = ["°f", "(f)", "[f]", "fahrenheit", "degf", "_f"]
        .iter()
        .any(|w| h.contains(w));
    // Over the whole file: a kiln is cold when its log begins.
    let hottest = rows
        .iter()
        .filter_map(|r| number(r.get(temperature_at)?))
        .filter(|v| *v < NO_TEMPERATURE_C)
        .fold(0.0, f64::max);
    Ok(Columns {
        time,
        clock: apart,
        temperature: temperature_at,
        fahrenheit: named_f || hottest > TOO_HOT_C,
    })
}

/// Reads a log. With `columns` they are what the smith chose.
///
/// # Errors
/// Faults at `text` (too large, no rows) and `columns` (none recognised, or there is no such column).
///
/// ```
/// use vatten_core::import::log::read;
/// let log = read("time,kiln C\n0,20\n60,118\n120,240\n", None).unwrap();
/// assert_eq!(log.samples.len(), 3);
/// assert!(!log.dated);
/// ```
pub fn read(text: &str, columns: Option<Columns>) -> Result<Log, Faults> {
    if text.len() > MAX_BYTES {
        return Err(Faults::with_allowed(
            "text",
            "The log is too large.",
            "up to 4 MB",
        ));
    }
    let text = text.trim_start_matches('\u{feff}');
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .flexible(true)
        .delimiter(delimiter(text))
        .from_reader(text.as_bytes());
    let mut rows: Vec<Vec<String>> = Vec::new();
    for record in reader.records().take(MAX_ROWS) {
        let record = record.map_err(|e| Faults::one("text", format!("It cannot be read: {e}.")))?;
        let cells = record.iter().take(MAX_COLUMNS);
        rows.push(cells.map(|c| c.trim().to_owned()).collect());
    }
    // The rows begin where a row holds a number; what stands before may be headings.
    let holds = |r: &Vec<String>| {
        r.len() > 1
            && r.iter()
                .filter(|c| moment(c, 1.0).is_some() || temperature(c, false).is_some())
                .count()
                >= 2
    };
    let Some(begin) = rows.iter().position(holds) else {
        let sentence = "There are no rows of times and temperatures in this file.";
        return Err(Faults::one("text", sentence));
    };
    let above = begin
        .checked_sub(1)
        .map(|i| rows[i].clone())
        .unwrap_or_default();
    let rows = rows.split_off(begin);
    let width = rows.iter().take(LOOKED_AT).map(Vec::len).max().unwrap_or(0);
    let headings: Vec<String> = (0..width)
        .map(|i| {
            above
                .get(i)
                .filter(|h| !h.is_empty())
                .cloned()
                .unwrap_or_else(|| format!("column {}", i + 1))
        })
        .collect();
    let columns = match columns {
        Some(chosen) => {
            let all = [Some(chosen.time), chosen.clock, Some(chosen.temperature)];
            if all.into_iter().flatten().any(|c| c >= width) {
                let allowed = format!("0 to {}", width.saturating_sub(1));
                return Err(Faults::with_allowed(
                    "columns",
                    "There is no such column.",
                    allowed,
                ));
            }
            chosen
        }
        None => recognise(&headings, &rows)?,
    };
    let first_rows = rows.iter().take(5).cloned().collect();
    let (samples, (dated, zoned), notes) = samples(&rows, &headings, columns);
    if samples.len() < 2 {
        let sentence = "These columns hold no times and temperatures.";
        return Err(Faults::one("columns", sentence));
    }
    Ok(Log {
        headings,
        first_rows,
        columns,
        samples,
        dated,
        zoned,
        notes,
    })
}

/// A day, ms.
const DAY_MS: i64 = 86_400_000;
/// Half of it.
const HALF_DAY_MS: i64 = DAY_MS / 2;

/// The clock of a logger, made to go on: past midnight, and where it was put back.
#[derive(Default)]
struct Clock {
    shift_ms: i64,
    /// Usual times between samples, ms, in order.
    steps_ms: Vec<i64>,
    back: usize,
    midnights: usize,
}

impl Clock {
    /// The time of a sample after the one before; none for a second one of the same time.
    fn follow(&mut self, at: &Moment, last_ms: Option<i64>) -> Option<i64> {
        let ms = at.ms + self.shift_ms;
        let Some(last_ms) = last_ms else {
            return Some(ms);
        };
        let usual_ms = self.steps_ms.get(self.steps_ms.len() / 2);
        let usual_ms = usual_ms.copied().unwrap_or(1000).max(1);
        let back_by = last_ms - ms;
        if !at.dated && (HALF_DAY_MS + 1..DAY_MS).contains(&back_by) {
            // Past midnight, or past noon on a clock of twelve hours.
            self.shift_ms += DAY_MS;
            self.midnights += 1;
            return Some(ms + DAY_MS).filter(|ms| *ms != last_ms);
        }
        if back_by > 0 {
            // The clock was put back: time goes on.
            self.shift_ms += back_by + usual_ms;
            self.back += 1;
            return Some(last_ms + usual_ms);
        }
        if back_by < 0 && self.steps_ms.len() < 31 {
            self.steps_ms.push(-back_by);
            self.steps_ms.sort_unstable();
        }
        (back_by < 0).then_some(ms)
    }
}

fn samples(
    rows: &[Vec<String>],
    headings: &[String],
    columns: Columns,
) -> (Vec<Sample>, (bool, bool), Vec<LogNote>) {
    let (mut skipped, mut other_unit) = (0usize, 0usize);
    let unit = unit_s(&headings[columns.time]);
    let mut found: Vec<Sample> = Vec::with_capacity(rows.len());
    let (mut dated, mut zoned) = (false, true);
    let mut time = Clock::default();
    for row in rows {
        let cell = |i: usize| row.get(i).map_or("", String::as_str);
        let at = match columns.clock {
            Some(c) => date(cell(columns.time))
                .zip(clock(cell(c)))
                .map(|(day, ms)| Moment {
                    ms: day * DAY_MS + ms,
                    dated: true,
                    zoned: false,
                }),
            None => moment(cell(columns.time), unit),
        };
        let warm = temperature(cell(columns.temperature), columns.fahrenheit);
        let (Some(at), Some((celsius, f))) = (at, warm) else {
            skipped += 1;
            continue;
        };
        other_unit += usize::from(f != columns.fahrenheit);
        dated |= at.dated;
        zoned &= at.zoned;
        if let Some(at_ms) = time.follow(&at, found.last().map(|s| s.at_ms)) {
            found.push(Sample { at_ms, celsius });
        }
    }
    let mut notes = Vec::new();
    if skipped > 0 {
        notes.push(LogNote::RowsLeftOut { rows: skipped });
    }
    if other_unit > 0 && other_unit < found.len() {
        notes.push(LogNote::OtherUnit {
            rows: other_unit,
            fahrenheit: !columns.fahrenheit,
        });
    }
    if time.back > 0 {
        notes.push(LogNote::ClockWentBack { times: time.back });
    }
    if time.midnights > 0 {
        notes.push(LogNote::PastMidnight {});
    }
    note_oddities(&found, columns, &mut notes);
    (thinned(found, &mut notes), (dated, zoned), notes)
}

/// What a smith should look at: heats that no steel bears, and gaps.
fn note_oddities(found: &[Sample], columns: Columns, notes: &mut Vec<LogNote>) {
    let hottest_c = found.iter().map(|s| s.celsius).fold(f64::MIN, f64::max);
    if hottest_c > TOO_HOT_C && !columns.fahrenheit {
        notes.push(LogNote::TooHot { hottest_c });
    }
    let gaps: Vec<f64> = found
        .windows(2)
        .map(|p| (p[1].at_ms - p[0].at_ms) as f64 / 1000.0)
        .filter(|s| *s > GAP_S)
        .collect();
    notes.extend(gaps.iter().take(GAPS_NAMED).map(|gap_s| LogNote::Gap {
        gap_s: *gap_s,
        clock_put_forward: (gap_s - 3600.0).abs() < 120.0,
    }));
    if gaps.len() > GAPS_NAMED {
        let gaps = gaps.len() - GAPS_NAMED;
        notes.push(LogNote::MoreGaps { gaps });
    }
}

/// So many gaps are named one by one.
const GAPS_NAMED: usize = 3;

/// No more than [`MAX_SAMPLES`]: of each stretch the hottest and the coolest.
fn thinned(samples: Vec<Sample>, notes: &mut Vec<LogNote>) -> Vec<Sample> {
    if samples.len() <= MAX_SAMPLES {
        return samples;
    }
    let samples_read = samples.len();
    notes.push(LogNote::Thinned { samples_read });
    let stretch = samples.len().div_ceil(MAX_SAMPLES / 2);
    let mut kept = Vec::with_capacity(MAX_SAMPLES);
    for part in samples.chunks(stretch) {
        let by = |a: &&Sample, b: &&Sample| a.celsius.total_cmp(&b.celsius);
        if let (Some(low), Some(high)) = (part.iter().min_by(by), part.iter().max_by(by)) {
            let (a, b) = if low.at_ms <= high.at_ms {
                (low, high)
            } else {
                (high, low)
            };
            kept.push(*a);
            if b.at_ms > a.at_ms {
                kept.push(*b);
            }
        }
    }
    kept
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case(
        "Date;Time;T1 (°C);T2 (°C)\n25.11.2026;15:14:26;815,0;21,5\n25.11.2026;15:14:31;814,5;21,5\n",
        815.0,
        5_000,
        true
    )]
    #[case(
        "time,temperature\n2026-11-25T15:14:26Z,815\n2026-11-25T15:14:31Z,816\n",
        815.0,
        5_000,
        true
    )]
    #[case(
        "Elapsed (min)\tSet °F\tActual °F\n0\t1500\t1490\n0.5\t1500\t1495\n",
        810.0,
        30_000,
        false
    )]
    #[case(
        "11/25/2026 03:14:26 PM,1500 F\n11/25/2026 03:14:36 PM,1502 F\n",
        815.555,
        10_000,
        true
    )]
    #[case(
        "Kiln log\nserial 7\n\nt [s],PV,SP\n0,25,800\n10,31,800\n",
        25.0,
        10_000,
        false
    )]
    #[case("\u{feff}1795619666,815.0\n1795619676,815.5\n", 815.0, 10_000, true)]
    fn loggers_write_in_many_ways(
        #[case] text: &str,
        #[case] first: f64,
        #[case] step: i64,
        #[case] dated: bool,
    ) {
        let columns = text.starts_with('\u{feff}').then_some(Columns {
            time: 0,
            clock: None,
            temperature: 1,
            fahrenheit: false,
        });
        let log = read(text, columns).unwrap();
        assert!((log.samples[0].celsius - first).abs() < 0.01, "{log:?}");
        assert_eq!(log.samples[1].at_ms - log.samples[0].at_ms, step);
        assert_eq!(log.dated, dated);
        let zoned = text.contains('Z') || text.starts_with('\u{feff}');
        assert_eq!(log.zoned, zoned);
        assert!(log.notes.is_empty(), "{:?}", log.notes);
        if dated && text.contains("15:14:26") {
            assert_eq!(log.samples[0].at_ms, 1_795_619_666_000);
        }
    }

    #[rstest]
    #[case("", "text")]
    #[case("\u{0}\u{1}\u{2}PNG", "text")]
    #[case("name,colour\nred,blue\n", "text")]
    #[case("a,b\n1,2\n3,4\n", "columns")]
    fn what_is_no_log_is_refused(#[case] text: &str, #[case] field: &str) {
        assert_eq!(read(text, None).unwrap_err().0[0].field, field);
    }

    #[test]
    fn columns_can_be_chosen_and_are_checked() {
        let text = "a,b,c\n0,20,300\n10,20,310\n";
        let at = |temperature| Columns {
            time: 0,
            clock: None,
            temperature,
            fahrenheit: false,
        };
        assert_eq!(read(text, Some(at(2))).unwrap().samples[1].celsius, 310.0);
        assert_eq!(read(text, Some(at(9))).unwrap_err().0[0].field, "columns");
    }

    fn noted(rows: &[(i64, &str)]) -> Log {
        let rows: String = rows.iter().map(|(t, v)| format!("{t},{v}\n")).collect();
        read(&format!("seconds,temperature\n{rows}"), None).unwrap()
    }

    #[test]
    fn a_gap_is_told() {
        let log = noted(&[(0, "800"), (10, "801"), (3610, "800"), (3620, "800")]);
        let hour = LogNote::Gap {
            gap_s: 3600.0,
            clock_put_forward: true,
        };
        assert_eq!(log.notes, [hour]);
    }

    #[test]
    fn a_clock_put_back_goes_on() {
        let log = noted(&[
            (7200, "800"),
            (7210, "801"),
            (7220, "801"),
            (3630, "802"),
            (3640, "803"),
        ]);
        assert_eq!(log.notes, [LogNote::ClockWentBack { times: 1 }]);
        let steps: Vec<i64> = log
            .samples
            .windows(2)
            .map(|p| p[1].at_ms - p[0].at_ms)
            .collect();
        assert_eq!(steps, [10_000; 4]);
    }

    #[test]
    fn a_unit_that_stands_in_the_cell_is_told_and_turned() {
        let marked = noted(&[(0, "200 C"), (10, "392 F"), (20, "200 C")]);
        assert!(
            marked
                .samples
                .iter()
                .all(|s| (s.celsius - 200.0).abs() < 0.1)
        );
        let other = LogNote::OtherUnit {
            rows: 1,
            fahrenheit: true,
        };
        assert_eq!(marked.notes, [other]);
    }

    #[test]
    fn a_cold_probe_into_a_hot_oven_stays_as_it_was_shown() {
        // 105 °C would be 221 °F: a jump between them is a probe put into the oven.
        let rows = "seconds,temperature\n0,104\n10,105\n20,221\n30,222\n40,221\n";
        let chosen = Columns {
            time: 0,
            clock: None,
            temperature: 1,
            fahrenheit: false,
        };
        for columns in [None, Some(chosen)] {
            let log = read(rows, columns).unwrap();
            let shown: Vec<f64> = log.samples.iter().map(|s| s.celsius).collect();
            assert_eq!(shown, [104.0, 105.0, 221.0, 222.0, 221.0]);
            assert!(log.notes.is_empty(), "{:?}", log.notes);
        }
    }

    #[test]
    fn the_unit_is_guessed_over_the_whole_file_and_never_against_what_was_chosen() {
        let rows: String = (0..200)
            .map(|i| format!("{},{}\n", 10 * i, 70 + 7 * i))
            .collect();
        let text = format!("seconds,temperature\n{rows}1990,1500\n");
        let guessed = read(&text, None).unwrap();
        assert!(guessed.columns.fahrenheit);
        assert!((guessed.samples[0].celsius - 21.1).abs() < 0.1);
        let chosen = Columns {
            fahrenheit: false,
            ..guessed.columns
        };
        let held = read(&text, Some(chosen)).unwrap();
        assert_eq!(held.samples[0].celsius, 70.0);
        assert_eq!(held.notes, [LogNote::TooHot { hottest_c: 1463.0 }]);
    }

    #[test]
    fn past_midnight_it_goes_on() {
        let log = read("time,temp\n23:59:50,205\n00:00:10,206\n", None).unwrap();
        assert_eq!(log.samples[1].at_ms - log.samples[0].at_ms, 20_000);
    }

    #[test]
    fn a_long_log_keeps_its_extremes() {
        let mut rows: Vec<(i64, String)> = (0..50_000).map(|i| (i, "800".to_owned())).collect();
        rows[31_234].1 = "843".to_owned();
        let rows: Vec<(i64, &str)> = rows.iter().map(|(t, v)| (*t, v.as_str())).collect();
        let log = noted(&rows);
        assert!(log.samples.len() <= MAX_SAMPLES);
        assert!(log.samples.iter().any(|s| s.celsius == 843.0));
    }

    proptest! {
        #[test]
        fn never_panics(text in "[0-9:;,. TFC°/\\-\n\t]{0,400}") {
            let _ = read(&text, None);
            let _ = read(&text, Some(Columns { time: 0, clock: Some(1), temperature: 1, fahrenheit: true }));
        }
    }
}
