//! A small electric furnace: elements that take time to heat, a chamber that loses heat to the room, a
//! cold load now and then, and a controller that switches the elements.

/// Room temperature, °C.
const ROOM_C: f64 = 20.0;
/// Share of its excess over the room that the chamber loses in a second.
const LOSS: f64 = 1.0 / 2000.0;
/// Share of the difference between elements and chamber that evens out in a second.
const COUPLING: f64 = 1.0 / 60.0;
/// How much hotter than the chamber the elements run at full power, °C.
const ELEMENTS_C: f64 = 60.0;
/// The controller looks this far ahead, s: too little, so that it overshoots a little.
const AHEAD_S: f64 = 8.0;
/// It switches off above the set point and on below it by this, °C: so that it swings.
const SWITCH_C: f64 = 2.0;

/// The state of a furnace.
#[derive(Debug, Clone, PartialEq)]
pub struct Furnace {
    /// Temperature of the chamber, °C.
    pub chamber_c: f64,
    /// Set point, °C.
    pub set_c: f64,
    elements_c: f64,
    on: bool,
    /// Heat that a cold load still takes, in °C of the chamber.
    load_c: f64,
}

impl Furnace {
    /// Cold, with a set point.
    #[must_use]
    pub fn cold(set_c: f64) -> Self {
        Self {
            chamber_c: ROOM_C,
            set_c,
            elements_c: ROOM_C,
            on: false,
            load_c: 0.0,
        }
    }

    /// At heat since a while.
    #[must_use]
    pub fn at_heat(set_c: f64) -> Self {
        let mut furnace = Self {
            chamber_c: set_c,
            elements_c: set_c,
            ..Self::cold(set_c)
        };
        furnace.run(600.0);
        furnace
    }

    /// The door is opened and a cold load of so much steel goes in, kg: the chamber falls by about 40 °C
    /// for each half kilogram when hot.
    pub fn load(&mut self, kilograms: f64) {
        let hot = ((self.chamber_c - ROOM_C) / 800.0).max(0.0);
        self.load_c += 125.0 * kilograms.clamp(0.0, 5.0) * hot;
    }

    /// Lets time go by, s.
    pub fn run(&mut self, seconds: f64) {
        let mut left = seconds.clamp(0.0, 86_400.0);
        while left > 0.0 {
            let step = left.min(0.5);
            self.step(step);
            left -= step;
        }
    }

    fn step(&mut self, dt: f64) {
        let rate = COUPLING * (self.elements_c - self.chamber_c) - LOSS * (self.chamber_c - ROOM_C);
        let expected = self.chamber_c + rate.max(0.0) * AHEAD_S * 0.5;
        if expected > self.set_c + SWITCH_C {
            self.on = false;
        } else if expected < self.set_c - SWITCH_C {
            self.on = true;
        }
        let to = if self.on {
            self.chamber_c + ELEMENTS_C
        } else {
            self.chamber_c
        };
        self.elements_c += (to - self.elements_c) * dt / 20.0;
        // A cold load takes its heat within about a minute.
        let taken = self.load_c * (1.0 - (-dt / 25.0).exp());
        self.load_c -= taken;
        self.chamber_c += rate * dt - taken;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn path(furnace: &mut Furnace, seconds: usize) -> Vec<f64> {
        (0..seconds)
            .map(|_| {
                furnace.run(1.0);
                furnace.chamber_c
            })
            .collect()
    }

    #[test]
    fn it_climbs_overshoots_a_little_and_swings() {
        let mut furnace = Furnace::cold(815.0);
        let climb = path(&mut furnace, 3600);
        let reached = climb.iter().position(|t| *t >= 815.0).unwrap();
        assert!((120..3000).contains(&reached), "{reached} s");
        let top = climb.iter().copied().fold(0.0, f64::max);
        assert!((816.0..835.0).contains(&top), "{top}");
        let held = &climb[3000..];
        let (low, high) = held
            .iter()
            .fold((f64::MAX, 0.0_f64), |(l, h), t| (l.min(*t), h.max(*t)));
        assert!(
            low > 800.0 && high < 830.0 && high - low > 1.0,
            "{low} {high}"
        );
    }

    #[test]
    fn a_load_makes_it_dip_and_it_recovers() {
        let mut furnace = Furnace::at_heat(815.0);
        furnace.load(0.5);
        let after = path(&mut furnace, 600);
        let low = after.iter().copied().fold(f64::MAX, f64::min);
        assert!((765.0..795.0).contains(&low), "{low}");
        let back = after.iter().rposition(|t| *t < 805.0).unwrap();
        assert!((20..500).contains(&back), "{back} s");
    }

    #[test]
    fn it_follows_a_lower_set_point() {
        let mut furnace = Furnace::at_heat(815.0);
        furnace.set_c = 205.0;
        furnace.run(7200.0);
        assert!(
            (furnace.chamber_c - 205.0).abs() < 15.0,
            "{}",
            furnace.chamber_c
        );
    }
}
