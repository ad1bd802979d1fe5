//! The records that the benchmarks check: about 1 KB each, valid against the demo's schema of a berth request.

use std::fmt::Write as _;

/// So many valid berth requests that differ from each other, one a line.
pub(crate) fn records(count: usize) -> Vec<u8> {
    let mut out = String::new();
    let mut dice = Dice(20_261_123);
    for n in 0..count {
        let id = dice.next();
        let kind = dice.below(3);
        let _ = write!(
            out,
            r#"{{"request_id":"{:08x}-{:04x}-4a3b-9c4d-{:012x}","submitted_at":"2026-03-{:02}T{:02}:15:00+01:00","#,
            id as u32,
            id >> 48,
            id & 0xffff_ffff_ffff,
            1 + dice.below(28),
            dice.below(24)
        );
        let _ = write!(
            out,
            r#""agent":{{"name":"Quayside Agency {n}","email":"desk{n}@quayside.example","phone":"+441290{:06}","website":"https://quayside.example/desk/{n}"}},"#,
            dice.below(1_000_000)
        );
        let _ = write!(
            out,
            r#""ship":{{"name":"MV Sanderling {n}","imo":"IMO{:07}","flag":"NO","length_m":{}.{},"beam_m":{}.5,"draught_m":{}.{:02},"gross_tonnage":{}}},"#,
            dice.below(10_000_000),
            50 + dice.below(250),
            dice.below(10),
            9 + dice.below(30),
            3 + dice.below(14),
            dice.below(100),
            900 + dice.below(90_000)
        );
        let _ = write!(
            out,
            r#""stay":{{"from":"2026-04-02T{:02}:00:00Z","until":"2026-04-03T18:30:00Z","berths":["N{}","S{}"],"shore_power":true,"voltage":6600}},"crew":["#,
            dice.below(24),
            1 + dice.below(9),
            1 + dice.below(9)
        );
        for member in 0..4 {
            let rank = if member == 0 { "master" } else { ["mate", "engineer", "deckhand"][dice.below(3) as usize] };
            let _ = write!(
                out,
                r#"{}{{"name":"Crew Member {member}","rank":"{rank}","born":"19{:02}-0{}-1{}","document":"HM{:06}"}}"#,
                if member == 0 { "" } else { "," },
                60 + dice.below(40),
                1 + dice.below(9),
                dice.below(10),
                dice.below(1_000_000)
            );
        }
        out.push_str(r#"],"cargo":["#);
        let _ = match kind {
            0 => write!(
                out,
                r#"{{"kind":"bulk","commodity":"gravel","weight_t":{},"dusty":true}}"#,
                1 + dice.below(90_000)
            ),
            1 => write!(
                out,
                r#"{{"kind":"containers","units":[{{"id":"HMSU{:07}","teu":1}},{{"id":"SKBU{:07}","teu":2}}]}}"#,
                dice.below(10_000_000),
                dice.below(10_000_000)
            ),
            _ => write!(
                out,
                r#"{{"kind":"liquid","substance":"methanol","volume_m3":{}.5,"un_number":"UN1230","flash_point_c":11}}"#,
                dice.below(4_000)
            ),
        };
        out.push_str(r#"],"last_ports":["Skerrow","Brinholt"],"remarks":"Pilot boards at the fairway buoy, second tug on request only."}"#);
        out.push('\n');
    }
    out.into_bytes()
}

/// Numbers that look random and are the same every time (xorshift).
struct Dice(u64);

impl Dice {
    fn next(&mut self) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0
    }

    fn below(&mut self, bound: u64) -> u64 {
        self.next() % bound
    }
}
