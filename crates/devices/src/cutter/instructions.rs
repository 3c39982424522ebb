//! What each instruction sets or asks for, as its words come.

use kurbo::Point;

use super::words::Word;
use super::{Cutter, FORCE, For, Open, Query, UNITS_PER_MM};

/// How long an eye looks, s.
const LOOK: f64 = 0.2;

impl Cutter {
    pub(super) fn take(&mut self, word: Word) {
        match word {
            Word::Begin(name) => {
                self.open = Open {
                    name,
                    ..Open::default()
                };
            }
            Word::Number(number) => {
                self.open.numbers.push(number);
                let moves = matches!(&self.open.name, b"PU" | b"PD" | b"PA" | b"PR");
                if moves && let [x, y] = self.open.numbers[..] {
                    self.open.numbers.clear();
                    self.begin_moves();
                    self.open.pairs += 1;
                    self.go(x, y);
                }
            }
            Word::End => self.end(),
            Word::Odd => self.fault(3),
        }
    }

    /// What a moving instruction sets before its first pair.
    fn begin_moves(&mut self) {
        if self.open.pairs > 0 {
            return;
        }
        match &self.open.name {
            b"PU" => self.lift(false),
            b"PD" => self.lift(true),
            b"PA" => self.set.relative = false,
            b"PR" => self.set.relative = true,
            _ => {}
        }
    }

    pub(super) fn lift(&mut self, down: bool) {
        if self.set.down == down {
            return;
        }
        self.set.down = down;
        let (pen, force) = (self.set.pen, self.set.force);
        let what = if down {
            For::Lower { pen, force }
        } else {
            For::Raise
        };
        self.head.stand(self.model.lift, what);
    }

    fn go(&mut self, x: f64, y: f64) {
        let asked = Point::new(x / UNITS_PER_MM, y / UNITS_PER_MM);
        let to = if self.set.relative {
            self.head.target() + asked.to_vec2()
        } else {
            asked
        };
        let [length, width] = self.model.size;
        let clipped = Point::new(to.x.clamp(0.0, length), to.y.clamp(0.0, width));
        if clipped.distance(to) > 1e-9 {
            self.fault(6);
        }
        let (what, speed) = if self.set.down {
            (For::Cut, self.set.speed)
        } else {
            (For::Travel, self.model.speed)
        };
        self.head.go(clipped, speed.min(self.model.speed), what);
    }

    fn end(&mut self) {
        let open = std::mem::take(&mut self.open);
        let number = open.numbers.first().copied();
        match &open.name {
            b"PU" | b"PD" | b"PA" | b"PR" => {
                if open.pairs == 0 {
                    self.open = open.clone();
                    self.begin_moves();
                    self.open = Open::default();
                }
                if number.is_some() {
                    self.fault(2);
                }
            }
            b"IN" | b"DF" => {
                self.lift(false);
                self.set.relative = false;
                self.head.stand(0.0, For::Initialise);
            }
            b"SP" => self.set.pen = number.unwrap_or(0.0).clamp(0.0, 255.0) as u8,
            // Centimetres a second.
            b"VS" => match number {
                Some(v) if v > 0.0 => self.set.speed = v * 10.0,
                Some(_) => self.fault(3),
                None => self.set.speed = self.model.speed,
            },
            b"FS" => match number {
                Some(v) if v >= 0.0 => self.set.force = v,
                Some(_) => self.fault(3),
                None => self.set.force = FORCE,
            },
            b"OI" => self.ask(Query::Name),
            b"OS" => self.ask(Query::Status),
            b"OH" => self.ask(Query::Limits),
            b"OE" => self.ask(Query::Error),
            b"OA" => self.ask(Query::Place),
            b"DP" => self.head.stand(LOOK, For::Look),
            b"OD" => self.ask(Query::Pointed),
            // Known to plotters, of no use to a blade.
            b"LB" | b"PT" | b"LT" | b"PW" | b"RO" | b"IW" | b"IP" | b"SC" => {}
            _ => self.fault(1),
        }
    }

    fn fault(&mut self, number: u8) {
        self.head.stand(0.0, For::Fault(number));
    }

    /// An answer in its turn: when all before it is done.
    fn ask(&mut self, query: Query) {
        self.head.stand(0.0, For::Answer(query));
    }
}
