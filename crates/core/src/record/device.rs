//! How a device outside speaks: registers of a controller over Modbus TCP, or lines of text over TCP. What
//! the numbers mean is entered by the shop; nothing here opens a connection.

use crate::quantity::units::{Celsius, Hrc, Quantity};
use crate::quantity::validation::{Checker, Faults};
use serde::{Deserialize, Serialize};

/// Where a device listens, and what it speaks.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "speaks", rename_all = "snake_case", deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Device {
    /// A temperature controller with registers, over Modbus TCP.
    Modbus {
        /// Name or address of the host, 1 to 253 characters.
        host: String,
        /// Port, 1 to 65535; 502 as a rule.
        port: u16,
        /// What its registers mean.
        map: RegisterMap,
    },
    /// A tester or thermometer that sends a line of text for each reading, over TCP.
    Lines {
        /// Name or address of the host, 1 to 253 characters.
        host: String,
        /// Port, 1 to 65535.
        port: u16,
        /// How a line looks: the words around the number, the number as `{value}`. For example
        /// `HRC {value}`.
        pattern: String,
    },
}

/// The two tables of registers that hold numbers.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Table {
    /// Holding registers: read and written.
    #[default]
    Holding,
    /// Input registers: read only.
    Input,
}

/// One register of 16 bits.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Register {
    /// Address as sent, counted from 0.
    pub address: u16,
    /// Its table.
    #[serde(default)]
    pub table: Table,
}

/// What the registers of a controller mean.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RegisterMap {
    /// Unit number of the controller, 0 to 247.
    pub unit: u8,
    /// The temperature measured.
    pub temperature: Register,
    /// The set point, to be read and, when it is a holding register, written.
    #[serde(default)]
    pub set_point: Option<Register>,
    /// Steps to a degree: 10 when 8150 means 815.0. 1 to 100.
    pub per_degree: u16,
    /// The controller is set to °F.
    #[serde(default)]
    pub fahrenheit: bool,
}

/// What a number in a register means: °C, or nothing that could be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error(
    "The device sends {0}, which is no temperature: look at its sensor and at the register map."
)]
pub struct Rubbish(pub i32);

impl RegisterMap {
    /// The temperature that a register of 16 bits, two's complement, means.
    ///
    /// # Errors
    /// [`Rubbish`] outside −200 to 1300 °C: a broken sensor, or the wrong register.
    pub fn celsius(&self, raw: u16) -> Result<Celsius, Rubbish> {
        let signed = i16::from_ne_bytes(raw.to_ne_bytes());
        let shown = f64::from(signed) / f64::from(self.per_degree.max(1));
        let celsius = if self.fahrenheit {
            (shown - 32.0) / 1.8
        } else {
            shown
        };
        Celsius::check("temperature", celsius).map_err(|_| Rubbish(i32::from(signed)))
    }

    /// The number to be written for a set point.
    ///
    /// # Errors
    /// A fault at `temperature_c` that does not fit the register.
    pub fn raw(&self, set: Celsius) -> Result<u16, Faults> {
        let shown = if self.fahrenheit {
            set.value() * 1.8 + 32.0
        } else {
            set.value()
        };
        let steps = (shown * f64::from(self.per_degree.max(1))).round();
        if !(f64::from(i16::MIN)..=f64::from(i16::MAX)).contains(&steps) {
            let sentence = "This does not fit the controller's register.";
            return Err(Faults::one("temperature_c", sentence));
        }
        Ok((steps as i16).cast_unsigned())
    }
}

/// Where the number stands in a line.
const VALUE: &str = "{value}";

/// The hardness in a line that looks like `pattern`: white space counts as one blank, and words that follow the
/// pattern are passed over. None for any other line.
#[must_use]
pub fn value_in(pattern: &str, line: &str) -> Option<Hrc> {
    let tidy = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let (pattern, line) = (tidy(pattern), tidy(line));
    let (before, after) = pattern.split_once(VALUE)?;
    let rest = line.strip_prefix(before)?.trim_start();
    let end = rest
        .find(|c: char| !(c.is_ascii_digit() || matches!(c, '.' | ',' | '-' | '+')))
        .unwrap_or(rest.len());
    let (number, rest) = rest.split_at(end);
    let rest = rest.strip_prefix(after)?;
    // More digits after a blank: the number fell apart on its way, and half of it is another one.
    let more = rest
        .trim_start()
        .starts_with(|c: char| c.is_ascii_digit() || matches!(c, '.' | ','));
    if after.is_empty() && more {
        return None;
    }
    let value: f64 = number.replace(',', ".").parse().ok()?;
    Hrc::check("value", value).ok()
}

impl Device {
    /// Checks what was entered. The host is only looked at as text.
    ///
    /// # Errors
    /// Faults at `host`, `port`, `pattern`, `map.unit`, `map.per_degree`, `map.set_point`.
    pub fn check(&self) -> Result<(), Faults> {
        let mut c = Checker::default();
        let (Self::Modbus { host, port, .. } | Self::Lines { host, port, .. }) = self;
        let fine = |ch: char| ch.is_ascii_alphanumeric() || matches!(ch, '.' | '-' | ':' | '_');
        if host.is_empty() || host.len() > 253 || !host.chars().all(fine) {
            let sentence = "This is no name or address of a host.";
            c.refuse_allowing("host", sentence, "for example 192.168.1.40 or kiln.local");
        }
        if *port == 0 {
            c.refuse_allowing("port", "There is no port 0.", "1 to 65535");
        }
        match self {
            Self::Modbus { map, .. } => {
                if map.unit > 247 {
                    c.refuse_allowing("map.unit", "There is no such unit.", "0 to 247");
                }
                if !(1..=100).contains(&map.per_degree) {
                    c.refuse_allowing("map.per_degree", "So many steps are no degree.", "1 to 100");
                }
                if map.set_point == Some(map.temperature) {
                    c.refuse("map.set_point", "This is the register of the temperature.");
                }
            }
            Self::Lines { pattern, .. } => {
                if pattern.len() > 80 || pattern.matches(VALUE).count() != 1 {
                    c.refuse_allowing(
                        "pattern",
                        "The pattern says once where the number stands.",
                        "for example HRC {value}",
                    );
                }
            }
        }
        c.finish(Some(()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn map(per_degree: u16, fahrenheit: bool) -> RegisterMap {
        RegisterMap {
            unit: 1,
            temperature: Register {
                address: 0,
                table: Table::Input,
            },
            set_point: None,
            per_degree,
            fahrenheit,
        }
    }

    #[rstest]
    #[case(10, false, 8150, 815.0)]
    #[case(1, true, 1500, 815.556)]
    #[case(10, false, 65_426, -11.0)]
    fn registers_are_read(#[case] per: u16, #[case] f: bool, #[case] raw: u16, #[case] c: f64) {
        let map = map(per, f);
        let got = map.celsius(raw).unwrap();
        assert!((got.value() - c).abs() < 0.001, "{got:?}");
        assert_eq!(map.raw(got).unwrap(), raw);
    }

    #[test]
    fn rubbish_is_told_from_a_temperature() {
        assert_eq!(map(1, false).celsius(0x7fff), Err(Rubbish(32_767)));
        assert!(map(100, false).raw(Celsius::clamped(815.0)).is_err());
    }

    #[rstest]
    #[case("HRC {value}", "HRC 61.3", Some(61.3))]
    #[case("HRC {value}", "  HRC   61,3\r", Some(61.3))]
    #[case("HRC {value}", "HRC 61.3 ok", Some(61.3))]
    #[case("{value} HRC", "61.3 HRC", Some(61.3))]
    #[case("{value} HRC", "61.3 HRB", None)]
    #[case("HRC {value}", "HRC 75.0", None)]
    #[case("HRC {value}", "\u{fffd}\u{fffd}\u{1}", None)]
    #[case("HRC {value}", "HRC 6 1", None)]
    #[case("HRC {value}", "HRC 61 .3", None)]
    #[case("N{value};", "N61.3;2026", Some(61.3))]
    fn lines_are_read(#[case] pattern: &str, #[case] line: &str, #[case] wanted: Option<f64>) {
        assert_eq!(value_in(pattern, line).map(Hrc::value), wanted);
    }

    #[rstest]
    #[case(
        r#"{"speaks":"lines","host":"10.0.0.4","port":4000,"pattern":"HRC {value}"}"#,
        None
    )]
    #[case(
        r#"{"speaks":"lines","host":"a b","port":4000,"pattern":"HRC {value}"}"#,
        Some("host")
    )]
    #[case(
        r#"{"speaks":"lines","host":"a","port":0,"pattern":"HRC {value}"}"#,
        Some("port")
    )]
    #[case(
        r#"{"speaks":"lines","host":"a","port":1,"pattern":"HRC"}"#,
        Some("pattern")
    )]
    #[case(
        r#"{"speaks":"modbus","host":"a","port":502,"map":{"unit":250,"temperature":{"address":0},"per_degree":10}}"#,
        Some("map.unit")
    )]
    #[case(
        r#"{"speaks":"modbus","host":"a","port":502,"map":{"unit":1,"temperature":{"address":0},"per_degree":0}}"#,
        Some("map.per_degree")
    )]
    #[case(
        r#"{"speaks":"modbus","host":"a","port":502,"map":{"unit":1,"temperature":{"address":3},"set_point":{"address":3},"per_degree":10}}"#,
        Some("map.set_point")
    )]
    fn what_is_entered_is_checked(#[case] json: &str, #[case] field: Option<&str>) {
        let device: Device = serde_json::from_str(json).unwrap();
        let got = device.check().err().map(|f| f.0[0].field.clone());
        assert_eq!(got.as_deref(), field);
    }
}
