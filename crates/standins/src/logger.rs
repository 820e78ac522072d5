//! A thermocouple logger that writes a CSV file, as a stick pulled out of one would hold.

use std::fs::{File, OpenOptions};
use std::io::{self, Write};
use std::path::Path;

/// A log being written.
pub struct Logger(File);

impl Logger {
    /// Begins a log, with its heading.
    ///
    /// # Errors
    /// The file cannot be written.
    pub fn begin(path: &Path) -> io::Result<Self> {
        let mut file = OpenOptions::new()
            .create(true)
            .write(true)
            .truncate(true)
            .open(path)?;
        writeln!(file, "Date;Time;T1 (°C);T2 (°C)")?;
        Ok(Self(file))
    }

    /// Writes what its two thermocouples show at a time, s since 1970, UTC; decimal commas, as such loggers
    /// have it.
    ///
    /// # Errors
    /// The file cannot be written.
    pub fn write(&mut self, seconds: i64, first_c: f64, second_c: f64) -> io::Result<()> {
        let (day, second) = (seconds.div_euclid(86_400), seconds.rem_euclid(86_400));
        let (year, month, date) = civil(day);
        let comma = |celsius: f64| format!("{celsius:.1}").replace('.', ",");
        writeln!(
            self.0,
            "{date:02}.{month:02}.{year};{:02}:{:02}:{:02};{};{}",
            second / 3600,
            second / 60 % 60,
            second % 60,
            comma(first_c),
            comma(second_c)
        )
    }
}

/// Year, month and day of a day since 1970 (Howard Hinnant's algorithm, public domain).
fn civil(day: i64) -> (i64, i64, i64) {
    let z = day + 719_468;
    let era = z.div_euclid(146_097);
    let doe = z.rem_euclid(146_097);
    let yoe = (doe - doe / 1460 + doe / 36_524 - doe / 146_096) / 365;
    let doy = doe - (365 * yoe + yoe / 4 - yoe / 100);
    let mp = (5 * doy + 2) / 153;
    let month = if mp < 10 { mp + 3 } else { mp - 9 };
    let year = yoe + era * 400 + i64::from(month <= 2);
    (year, month, doy - (153 * mp + 2) / 5 + 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_log_is_what_a_logger_would_write() {
        let path = std::env::temp_dir().join(format!("vatten-logger-{}.csv", std::process::id()));
        let mut log = Logger::begin(&path).unwrap();
        log.write(1_795_619_666, 814.96, 21.5).unwrap();
        let text = std::fs::read_to_string(&path).unwrap();
        std::fs::remove_file(&path).unwrap();
        assert_eq!(
            text,
            "Date;Time;T1 (°C);T2 (°C)\n25.11.2026;15:14:26;815,0;21,5\n"
        );
    }
}
