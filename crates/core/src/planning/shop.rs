//! Who is in a shop when, and what counts on its days.

use crate::planning::day::Price;
use crate::process::operator::Operator;
use crate::quantity::units::{Quantity, Seconds};
use crate::quantity::validation::{Checker, Faults, Unit};
use serde::{Deserialize, Serialize};

/// What counts more where both cannot be.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum CountsMore {
    /// As much of each.
    #[default]
    Even,
    /// To be done early.
    Early,
    /// To be free of the fire as long as can be in one piece.
    FreeHands,
    /// That every blade comes out as well as can be.
    Steel,
}

/// From and to, minutes since midnight of the shop's clock.
pub type Minutes = [u32; 2];

/// An operator's week.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Shift {
    /// Who.
    pub name: Operator,
    /// Days of the week, 1 for Monday to 7 for Sunday.
    pub days: Vec<u32>,
    /// From and to, minutes since midnight; over midnight where the end is not after the begin.
    pub hours: [u32; 2],
    /// Away in between, minutes since midnight.
    #[serde(default)]
    pub breaks: Vec<[u32; 2]>,
    /// Kinds of work that they do not do, by the step's kind.
    #[serde(default)]
    pub not: Vec<String>,
    /// Days on which it is otherwise.
    #[serde(default)]
    pub other_days: Vec<OtherDay>,
}

/// A day on which somebody comes otherwise than usual.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OtherDay {
    /// The day, `2026-11-29`.
    pub date: String,
    /// From and to, minutes since midnight; away all day when left out.
    #[serde(default)]
    pub hours: Option<[u32; 2]>,
}

/// A shop's hours, and what counts.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ShopHours {
    /// Who works when, 1 to 8.
    pub shifts: Vec<Shift>,
    /// Longest that a blade lies hard before its temper, 300 to 86,400 s.
    pub temper_within_s: Seconds,
    /// What counts more.
    #[serde(default)]
    pub counts_more: CountsMore,
}

/// Most people at work.
const SHIFTS: (usize, usize) = (1, 8);
const MOST_BREAKS: usize = 6;
const MOST_OTHER_DAYS: usize = 60;
const DAY_MIN: u32 = 24 * 60;
const TEMPER_WITHIN_S: (f64, f64) = (300.0, 86_400.0);
/// Until a shop says otherwise a blade is in the temper within this: workshop experience, s.
const USUALLY_WITHIN_S: f64 = 2.0 * 3600.0;
/// Risk that costs nothing: one blade in a hundred, ppm.
const ACCEPT_PPM: i64 = 10_000;

impl ShopHours {
    /// One operator, from Monday to Saturday, with a break at noon.
    #[must_use]
    pub fn usual(name: Operator) -> Self {
        let noon = 12 * 60;
        Self {
            shifts: vec![Shift {
                name,
                days: (1..=6).collect(),
                hours: [8 * 60, 18 * 60],
                breaks: vec![[noon, noon + 30]],
                not: Vec::new(),
                other_days: Vec::new(),
            }],
            temper_within_s: Seconds::clamped(USUALLY_WITHIN_S),
            counts_more: CountsMore::Even,
        }
    }

    /// What a day costs, by what counts more here.
    #[must_use]
    pub const fn price(&self) -> Price {
        let (s_per_1000ppm, hands) = match self.counts_more {
            CountsMore::Even => (90.0, 0.5),
            CountsMore::Early => (45.0, 0.1),
            CountsMore::FreeHands => (90.0, 1.5),
            CountsMore::Steel => (360.0, 0.5),
        };
        Price {
            accept_ppm: ACCEPT_PPM,
            s_per_1000ppm,
            hands,
            change_s: 600.0,
            moved: 0.05,
        }
    }

    /// Refuses what is no week.
    ///
    /// # Errors
    /// Faults at `shifts[i].…` and `temper_within_s`.
    pub fn checked(self) -> Result<Self, Faults> {
        let mut c = Checker::default();
        if !(SHIFTS.0..=SHIFTS.1).contains(&self.shifts.len()) {
            let allowed = format!("{} to {}", SHIFTS.0, SHIFTS.1);
            c.refuse_allowing("shifts", "So many do not work here.", allowed);
        }
        let within = self.temper_within_s.value();
        if !(TEMPER_WITHIN_S.0..=TEMPER_WITHIN_S.1).contains(&within) {
            let sentence = "A blade is tempered sooner than that, and not in no time.";
            c.refuse_outside("temper_within_s", sentence, TEMPER_WITHIN_S, Unit::Second);
        }
        for (i, shift) in self.shifts.iter().enumerate() {
            let at = |field: &str| format!("shifts[{i}].{field}");
            let same = |other: &Shift| other.name == shift.name;
            if self.shifts[..i].iter().any(same) {
                c.refuse(at("name"), "This name is there already.");
            }
            if shift.days.is_empty() || shift.days.iter().any(|d| !(1..=7).contains(d)) {
                let sentence = "Say on which days of the week.";
                c.refuse_allowing(at("days"), sentence, "1 for Monday to 7 for Sunday");
            }
            let wrong = |[from, to]: Minutes| from >= DAY_MIN || to > DAY_MIN || from == to;
            let minutes = "minutes since midnight, 0 to 1440, not the same twice";
            if wrong(shift.hours) {
                c.refuse_allowing(at("hours"), "These are no hours.", minutes);
            }
            if shift.breaks.len() > MOST_BREAKS
                || shift.breaks.iter().any(|b| wrong(*b) || b[0] > b[1])
            {
                c.refuse_allowing(at("breaks"), "This is no break.", minutes);
            }
            if shift.not.len() > 20 || shift.not.iter().any(|k| k.is_empty() || k.len() > 40) {
                c.refuse(at("not"), "There is no such work.");
            }
            if shift.other_days.len() > MOST_OTHER_DAYS
                || shift
                    .other_days
                    .iter()
                    .any(|d| d.hours.is_some_and(wrong) || d.date.len() != 10)
            {
                let allowed = "a date like 2026-11-29 with hours, or with none where they are away";
                c.refuse_allowing(at("other_days"), "This is no such day.", allowed);
            }
        }
        c.finish(Some(self))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn usual() -> ShopHours {
        ShopHours::usual(Operator::parse("Tove").unwrap())
    }

    #[test]
    fn the_usual_week_is_one_and_what_is_none_is_refused_at_its_field() {
        assert!(usual().checked().is_ok());
        let mut wild = usual();
        wild.shifts.push(Shift {
            days: vec![8],
            hours: [600, 600],
            breaks: vec![[700, 650]],
            ..wild.shifts[0].clone()
        });
        wild.temper_within_s = Seconds::clamped(1e6);
        let faults = wild.checked().unwrap_err();
        let fields: Vec<&str> = faults.0.iter().map(|f| f.field.as_str()).collect();
        let expected = [
            "temper_within_s",
            "shifts[1].name",
            "shifts[1].days",
            "shifts[1].hours",
            "shifts[1].breaks",
        ];
        assert_eq!(fields, expected);
    }

    #[test]
    fn what_counts_more_costs_more() {
        let price = |counts_more| {
            ShopHours {
                counts_more,
                ..usual()
            }
            .price()
        };
        let even = price(CountsMore::Even);
        assert!(price(CountsMore::Steel).s_per_1000ppm > even.s_per_1000ppm);
        assert!(price(CountsMore::FreeHands).hands > even.hands);
        assert!(price(CountsMore::Early).hands < even.hands);
    }
}
