//! `mervik demo`: the whole example, offline.
//!
//! The files of the example are part of the program. They are written to a folder, and the commands of the tour are run
//! there by this very program, so that what is shown is what anybody gets.

mod stand_in;

use crate::args::{DemoCall, DemoPart};
use crate::files;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint, Tone};
use std::io::{ErrorKind, Write};
use std::path::Path;
use std::process::{Command, Stdio};

/// The files of the example.
const FILES: &[(&str, &str)] = &[
    ("berth-request.schema.json", include_str!("../demo/berth-request.schema.json")),
    ("parties.schema.json", include_str!("../demo/parties.schema.json")),
    ("berth-request.json", include_str!("../demo/berth-request.json")),
    ("berth-requests.ndjson", include_str!("../demo/berth-requests.ndjson")),
    ("ship.json", include_str!("../demo/ship.json")),
    ("draft.schema.json", include_str!("../demo/draft.schema.json")),
    ("broken.schema.json", include_str!("../demo/broken.schema.json")),
    ("watch-note.schema.json", include_str!("../demo/watch-note.schema.json")),
    ("berth-wish.schema.json", include_str!("../demo/berth-wish.schema.json")),
    ("berth-wish.yaml", include_str!("../demo/berth-wish.yaml")),
    ("berth-wishes.csv", include_str!("../demo/berth-wishes.csv")),
    ("mervik.toml", include_str!("../demo/mervik.toml")),
    ("service-orders.ndjson", include_str!("../demo/service-orders.ndjson")),
    ("service-order.schema.json", include_str!("../demo/service-order.schema.json")),
    ("orders-today.ndjson", include_str!("../demo/orders-today.ndjson")),
    ("cases/good/orders.ndjson", include_str!("../demo/cases/good/orders.ndjson")),
    ("cases/bad/no-pull.json", include_str!("../demo/cases/bad/no-pull.json")),
    ("cases/bad/no-pull.json.reason", include_str!("../demo/cases/bad/no-pull.json.reason")),
    ("cases/bad/no-such-berth.json", include_str!("../demo/cases/bad/no-such-berth.json")),
    ("cases/bad/no-such-berth.json.reason", include_str!("../demo/cases/bad/no-such-berth.json.reason")),
    ("cases/bad/slips.ndjson", include_str!("../demo/cases/bad/slips.ndjson")),
    ("cases/bad/slips.ndjson.reason", include_str!("../demo/cases/bad/slips.ndjson.reason")),
    ("tow/times.schema.json", include_str!("../demo/tow/times.schema.json")),
    ("tow/tow-plan.schema.json", include_str!("../demo/tow/tow-plan.schema.json")),
    ("tow/tow-plan.de.ftl", include_str!("../demo/tow/tow-plan.de.ftl")),
    ("tow/tow-plan.es.ftl", include_str!("../demo/tow/tow-plan.es.ftl")),
    ("tow/tow-plans.ndjson", include_str!("../demo/tow/tow-plans.ndjson")),
    ("tow/cases/good/plans.ndjson", include_str!("../demo/tow/cases/good/plans.ndjson")),
    ("tow/cases/bad/plans.ndjson", include_str!("../demo/tow/cases/bad/plans.ndjson")),
    ("tow/cases/bad/plans.ndjson.reason", include_str!("../demo/tow/cases/bad/plans.ndjson.reason")),
    ("incident.schema.json", include_str!("../demo/incident.schema.json")),
    ("watch-notes/fog.txt", include_str!("../demo/watch-notes/fog.txt")),
    ("watch-notes/hawser.txt", include_str!("../demo/watch-notes/hawser.txt")),
    ("watch-notes/sheen.txt", include_str!("../demo/watch-notes/sheen.txt")),
    ("replies/fog.txt", include_str!("../demo/replies/fog.txt")),
    ("replies/hawser.txt", include_str!("../demo/replies/hawser.txt")),
    ("replies.ndjson", include_str!("../demo/replies.ndjson")),
    ("stand-in.ndjson", include_str!("../demo/stand-in.ndjson")),
    ("customs/manifest.xsd", include_str!("../demo/customs/manifest.xsd")),
    ("customs/goods.xsd", include_str!("../demo/customs/goods.xsd")),
    ("customs/parties.xsd", include_str!("../demo/customs/parties.xsd")),
    ("customs/ambiguous.xsd", include_str!("../demo/customs/ambiguous.xsd")),
    ("customs/manifest.xml", include_str!("../demo/customs/manifest.xml")),
    ("customs/manifest-refused.xml", include_str!("../demo/customs/manifest-refused.xml")),
    ("customs/manifest-broker.xml", include_str!("../demo/customs/manifest-broker.xml")),
    ("replies/manifest.txt", include_str!("../demo/replies/manifest.txt")),
    ("customs/cases/bad/filed-late.xml", include_str!("../demo/customs/cases/bad/filed-late.xml")),
    ("customs/cases/bad/filed-late.xml.reason", include_str!("../demo/customs/cases/bad/filed-late.xml.reason")),
    ("customs/cases/bad/no-mass.xml", include_str!("../demo/customs/cases/bad/no-mass.xml")),
    ("customs/cases/bad/no-mass.xml.reason", include_str!("../demo/customs/cases/bad/no-mass.xml.reason")),
    ("customs/cases/bad/unknown-consignee.xml", include_str!("../demo/customs/cases/bad/unknown-consignee.xml")),
    (
        "customs/cases/bad/unknown-consignee.xml.reason",
        include_str!("../demo/customs/cases/bad/unknown-consignee.xml.reason"),
    ),
    ("customs/cases/bad/two-with-one-number.xml", include_str!("../demo/customs/cases/bad/two-with-one-number.xml")),
    (
        "customs/cases/bad/two-with-one-number.xml.reason",
        include_str!("../demo/customs/cases/bad/two-with-one-number.xml.reason"),
    ),
    ("customs/cases/bad/too-warm.xml", include_str!("../demo/customs/cases/bad/too-warm.xml")),
    ("customs/cases/bad/too-warm.xml.reason", include_str!("../demo/customs/cases/bad/too-warm.xml.reason")),
    ("customs/cases/good/cod-and-salt.xml", include_str!("../demo/customs/manifest.xml")),
    (
        "sensors/halvenmouth/mooring/v1/reading.proto",
        include_str!("../demo/sensors/halvenmouth/mooring/v1/reading.proto"),
    ),
    ("sensors/halvenmouth/mooring/v1/rules.proto", include_str!("../demo/sensors/halvenmouth/mooring/v1/rules.proto")),
    (
        "sensors/halvenmouth/mooring/v1/service.proto",
        include_str!("../demo/sensors/halvenmouth/mooring/v1/service.proto"),
    ),
    (
        "sensors/halvenmouth/mooring/v1/notes.schema.json",
        include_str!("../demo/sensors/halvenmouth/mooring/v1/notes.schema.json"),
    ),
    ("sensors/reading.txtpb", include_str!("../demo/sensors/reading.txtpb")),
    ("sensors/readings.ndjson", include_str!("../demo/sensors/readings.ndjson")),
    ("sensors/slips.proto", include_str!("../demo/sensors/slips.proto")),
    ("sensors/tide.proto", include_str!("../demo/sensors/tide.proto")),
    ("sensors/tides.ndjson", include_str!("../demo/sensors/tides.ndjson")),
    ("sensors/cases/bad/berth-code-pattern.txtpb", include_str!("../demo/sensors/cases/bad/berth-code-pattern.txtpb")),
    (
        "sensors/cases/bad/berth-code-pattern.txtpb.reason",
        include_str!("../demo/sensors/cases/bad/berth-code-pattern.txtpb.reason"),
    ),
    (
        "sensors/cases/bad/bollards-unique-items.txtpb",
        include_str!("../demo/sensors/cases/bad/bollards-unique-items.txtpb"),
    ),
    (
        "sensors/cases/bad/bollards-unique-items.txtpb.reason",
        include_str!("../demo/sensors/cases/bad/bollards-unique-items.txtpb.reason"),
    ),
    ("sensors/cases/bad/alarm-says-where.txtpb", include_str!("../demo/sensors/cases/bad/alarm-says-where.txtpb")),
    (
        "sensors/cases/bad/alarm-says-where.txtpb.reason",
        include_str!("../demo/sensors/cases/bad/alarm-says-where.txtpb.reason"),
    ),
    ("sensors/cases/bad/cause-required.txtpb", include_str!("../demo/sensors/cases/bad/cause-required.txtpb")),
    (
        "sensors/cases/bad/cause-required.txtpb.reason",
        include_str!("../demo/sensors/cases/bad/cause-required.txtpb.reason"),
    ),
    ("sensors/cases/bad/detail-types.txtpb", include_str!("../demo/sensors/cases/bad/detail-types.txtpb")),
    (
        "sensors/cases/bad/detail-types.txtpb.reason",
        include_str!("../demo/sensors/cases/bad/detail-types.txtpb.reason"),
    ),
    ("sensors/cases/bad/gateway-format.txtpb", include_str!("../demo/sensors/cases/bad/gateway-format.txtpb")),
    (
        "sensors/cases/bad/gateway-format.txtpb.reason",
        include_str!("../demo/sensors/cases/bad/gateway-format.txtpb.reason"),
    ),
    ("sensors/cases/bad/head-refused.txtpb", include_str!("../demo/sensors/cases/bad/head-refused.txtpb")),
    (
        "sensors/cases/bad/head-refused.txtpb.reason",
        include_str!("../demo/sensors/cases/bad/head-refused.txtpb.reason"),
    ),
    ("sensors/cases/bad/kind-defined.txtpb", include_str!("../demo/sensors/cases/bad/kind-defined.txtpb")),
    (
        "sensors/cases/bad/kind-defined.txtpb.reason",
        include_str!("../demo/sensors/cases/bad/kind-defined.txtpb.reason"),
    ),
    ("sensors/cases/bad/line-load-maximum.txtpb", include_str!("../demo/sensors/cases/bad/line-load-maximum.txtpb")),
    (
        "sensors/cases/bad/line-load-maximum.txtpb.reason",
        include_str!("../demo/sensors/cases/bad/line-load-maximum.txtpb.reason"),
    ),
    ("sensors/cases/bad/lines-min-items.txtpb", include_str!("../demo/sensors/cases/bad/lines-min-items.txtpb")),
    (
        "sensors/cases/bad/lines-min-items.txtpb.reason",
        include_str!("../demo/sensors/cases/bad/lines-min-items.txtpb.reason"),
    ),
    ("sensors/cases/bad/window-longest.txtpb", include_str!("../demo/sensors/cases/bad/window-longest.txtpb")),
    (
        "sensors/cases/bad/window-longest.txtpb.reason",
        include_str!("../demo/sensors/cases/bad/window-longest.txtpb.reason"),
    ),
    ("sensors/cases/good/reading.txtpb", include_str!("../demo/sensors/reading.txtpb")),
    ("versions/declaration-1.xsd", include_str!("../demo/versions/declaration-1.xsd")),
    ("versions/declaration-2.xsd", include_str!("../demo/versions/declaration-2.xsd")),
    ("versions/declaration-3.xsd", include_str!("../demo/versions/declaration-3.xsd")),
    ("versions/declaration-4.xsd", include_str!("../demo/versions/declaration-4.xsd")),
    ("versions/load-1.proto", include_str!("../demo/versions/load-1.proto")),
    ("versions/load-2.proto", include_str!("../demo/versions/load-2.proto")),
    ("versions/load-3.proto", include_str!("../demo/versions/load-3.proto")),
    ("versions/load-4.proto", include_str!("../demo/versions/load-4.proto")),
    ("versions/pilotage-1.schema.json", include_str!("../demo/versions/pilotage-1.schema.json")),
    ("versions/pilotage-2.schema.json", include_str!("../demo/versions/pilotage-2.schema.json")),
    ("versions/pilotage-3.schema.json", include_str!("../demo/versions/pilotage-3.schema.json")),
    ("versions/pilotage-4.schema.json", include_str!("../demo/versions/pilotage-4.schema.json")),
    (
        "ledger/pilotage/1.0.0/pilotage-1.schema.json",
        include_str!("../demo/ledger/pilotage/1.0.0/pilotage-1.schema.json"),
    ),
    ("ledger/pilotage/1.0.0/release.toml", include_str!("../demo/ledger/pilotage/1.0.0/release.toml")),
];

/// One command of the tour.
struct Step {
    /// What it shows.
    says: &'static str,
    /// The arguments, as one would type them after `mervik`; one with spaces stands in single quotes.
    arguments: &'static str,
    status: i32,
}

/// The tour, in the order of the work.
const TOUR: &[Step] = &[
    Step {
        says: "Sixty orders of pilots, tugs and mooring gangs, cut off in the last one: the schema that they suggest, and why.",
        arguments: "infer --evidence --output service-order.draft.json service-orders.ndjson",
        status: 0,
    },
    Step {
        says: "The draft, tightened by hand, with good and bad examples beside it. What have they proved so far?",
        arguments: "trial service-order",
        status: 0,
    },
    Step {
        says: "Today's orders find their schema by `mervik.toml`. A new service has come up.",
        arguments: "check orders-today.ndjson",
        status: 1,
    },
    Step {
        says: "What would have to change to let them in, and whether it is the schema or the data that is wrong.",
        arguments: "fit --schema service-order orders-today.ndjson",
        status: 1,
    },
    Step {
        says: "A schema written in haste. It is one by the standard, and does not say what was meant.",
        arguments: "vet watch-note.schema.json",
        status: 1,
    },
    Step { says: "Why one of them matters, and how to mend it.", arguments: "explain overlapping-tags", status: 0 },
    Step {
        says: "A schema with five slips in it. None is passed over, and nothing is checked with half a schema.",
        arguments: "check --schema broken.schema.json berth-request.json",
        status: 2,
    },
    Step {
        says: "One berth request against the schema of the port: it holds.",
        arguments: "check --schema berth-request.schema.json berth-request.json",
        status: 0,
    },
    Step {
        says: "A ship alone, against the part of the schema that is about ships. All that is wrong with it is told at once.",
        arguments: "check --schema berth-request.schema.json#/$defs/ship ship.json",
        status: 1,
    },
    Step {
        says: "The same for a program: one line for every record.",
        arguments: "check --schema berth-request.schema.json#/$defs/ship --report ndjson ship.json",
        status: 1,
    },
    Step {
        says: "A morning's requests from five agencies. Most hold; one agency's system forgets the zone of its times.",
        arguments: "check --schema berth-request.schema.json berth-requests.ndjson",
        status: 1,
    },
    Step {
        says: "The same requests against a first draft of the schema. When nearly every record fails, the rule may be wrong.",
        arguments: "check --schema draft.schema.json berth-requests.ndjson",
        status: 1,
    },
    Step {
        says: "Plans of the towing office, whose fields must agree with each other. What breaks a rule is told with every field that it read.",
        arguments: "check tow/tow-plans.ndjson",
        status: 1,
    },
    Step {
        says: "The same for those who read German; what no catalogue has, the schema says in its own words.",
        arguments: "check --language de-CH tow/tow-plans.ndjson",
        status: 1,
    },
    Step {
        says: "Every rule between fields that refuses has cases, good and bad.",
        arguments: "trial tow-plan",
        status: 0,
    },
    Step {
        says: "A wish in YAML, by its own schema. In YAML 1.2 a `yes` is text, and findings stand where people wrote.",
        arguments: "check --schema berth-wish.schema.json berth-wish.yaml",
        status: 1,
    },
    Step {
        says: "An agency's table, with its own names and dates: the typed values out, what was changed, what is refused.",
        arguments: "coerce --schema berth-wish.schema.json berth-wishes.csv",
        status: 1,
    },
    Step {
        says: "Customs brokers send XML. All that is wrong with a manifest, and what could have come in the place of what did.",
        arguments: "check customs/manifest-refused.xml",
        status: 1,
    },
    Step {
        says: "A tally sheet's XML Schema, on which no two programs would agree.",
        arguments: "vet customs/ambiguous.xsd",
        status: 1,
    },
    Step { says: "What the manifest's cases prove of its schema.", arguments: "trial manifest", status: 0 },
    Step {
        says: "An older system's manifest, with its own names and spellings, as the typed JSON that the harbour's systems take.",
        arguments: "coerce --schema manifest --to json customs/manifest-broker.xml",
        status: 0,
    },
    Step {
        says: "Mooring sensors send protobuf. A draft of their rules, written in haste: what does not fit, and what cannot be meant.",
        arguments: "vet sensors/slips.proto",
        status: 1,
    },
    Step {
        says: "Forty readings in JSON become a binary stream. Their faults stay in: types alone are asked.",
        arguments: "coerce --schema reading --types-only --to protobuf-stream --output sensors/readings.binpbs sensors/readings.ndjson",
        status: 0,
    },
    Step {
        says: "The stream against the rules of the `.proto`: path, number and byte of all that is wrong.",
        arguments: "check --now 2026-04-02T06:05:00Z sensors/readings.binpbs",
        status: 1,
    },
    Step {
        says: "One reading, from the text format into the JSON mapping.",
        arguments: "coerce --schema reading --now 2026-04-02T06:05:00Z sensors/reading.txtpb",
        status: 0,
    },
    Step { says: "What the cases of the readings prove.", arguments: "trial reading", status: 0 },
    Step {
        says: "A partner's `.proto` has types alone. The rules that its messages suggest, for a file beside it.",
        arguments: "infer --schema sensors/tide.proto --bounds rounded --evidence sensors/tides.ndjson",
        status: 0,
    },
    Step {
        says: "Watch notes become incidents by a language model. What it is told: the schema in words.",
        arguments: "prompt --schema incident.schema.json --task watch-notes/hawser.txt",
        status: 0,
    },
    Step { says: "A clean reply.", arguments: "rescue --schema incident.schema.json replies/fog.txt", status: 0 },
    Step {
        says: "A reply with prose around it and nine kinds of faults in it, all of which can be mended without a guess.",
        arguments: "rescue --schema incident.schema.json replies/hawser.txt",
        status: 0,
    },
    Step {
        says: "A model's manifest in XML, out of its fence, with an `&` and typographic quotes.",
        arguments: "rescue --schema manifest replies/manifest.txt",
        status: 0,
    },
    Step {
        says: "A reply that is wrong: the note goes back, and the second one is right. A stand-in answers for the model.",
        arguments: "rescue --schema incident.schema.json --task watch-notes/sheen.txt --ask 'mervik demo stand-in --script stand-in.ndjson'",
        status: 0,
    },
    Step {
        says: "A night's replies, in records: the documents that hold, and what was wrong with all of them.",
        arguments: "rescue --schema incident.schema.json --field reply replies.ndjson",
        status: 1,
    },
    Step {
        says: "The pilotage request gets a field and a wider limit: nobody who used it is refused.",
        arguments: "compat versions/pilotage-1.schema.json versions/pilotage-2.schema.json",
        status: 0,
    },
    Step {
        says: "A tidy `oneOf` in the place of `anyOf` looks harmless. A request that proves the contrary.",
        arguments: "compat versions/pilotage-2.schema.json versions/pilotage-3.schema.json",
        status: 1,
    },
    Step {
        says: "Written anew from top to bottom, and yet both versions accept the very same.",
        arguments: "compat versions/pilotage-2.schema.json versions/pilotage-4.schema.json --promise full",
        status: 0,
    },
    Step {
        says: "A customs declaration gives up `xs:all` for a sequence.",
        arguments: "compat versions/declaration-2.xsd versions/declaration-3.xsd",
        status: 1,
    },
    Step {
        says: "Groups and patterns of the declaration are written in another way: no document tells the two apart.",
        arguments: "compat versions/declaration-2.xsd versions/declaration-4.xsd --promise full",
        status: 0,
    },
    Step {
        says: "A sensor's states go by the alphabet now. What receivers make of the bytes of older senders.",
        arguments: "compat versions/load-2.proto versions/load-3.proto",
        status: 1,
    },
    Step {
        says: "From proto3 to an edition, on the wire, in JSON, and by the rules.",
        arguments: "compat versions/load-2.proto versions/load-4.proto --promise full",
        status: 0,
    },
    Step {
        says: "The second version of the pilotage request is released: vetted, compared, and numbered by what changed.",
        arguments: "release pilotage --notes 'Tugs may be asked for.'",
        status: 0,
    },
    Step { says: "The ledger, verified.", arguments: "ledger", status: 0 },
    Step {
        says: "What is worked on, against what was released.",
        arguments: "compat pilotage@1.1.0 versions/pilotage-3.schema.json --promise full",
        status: 1,
    },
];

/// Runs the command.
pub(crate) fn run(call: &DemoCall, color: ColorChoice) -> Result<Status, Trouble> {
    if let Some(DemoPart::StandIn(call)) = &call.part {
        return stand_in::run(call);
    }
    let temporary = match call.keep {
        Some(_) => None,
        None => Some(tempfile::tempdir().map_err(|error| Trouble::new(format!("cannot make a folder: {error}")))?),
    };
    let folder = match (&call.keep, &temporary) {
        (Some(folder), _) => folder.as_path(),
        (None, Some(temporary)) => temporary.path(),
        (None, None) => return Err(Trouble::new("there is no folder for the example")),
    };
    write_files(folder)?;
    match tour(folder, call.keep.is_some(), Paint::for_stdout(color), color) {
        // Whoever stopped reading has seen enough.
        Err(Stopped::Output(error)) if error.kind() == ErrorKind::BrokenPipe => Ok(Status::Holds),
        Err(Stopped::Output(error)) => Err(Trouble::new(format!("cannot write to standard output: {error}"))),
        Err(Stopped::Trouble(trouble)) => Err(trouble),
        Ok(status) => Ok(status),
    }
}

enum Stopped {
    Output(std::io::Error),
    Trouble(Trouble),
}

impl From<std::io::Error> for Stopped {
    fn from(error: std::io::Error) -> Self {
        Stopped::Output(error)
    }
}

/// Writes the example, whole files only, and none over one that is there.
fn write_files(folder: &Path) -> Result<(), Trouble> {
    let trouble = |path: &Path, error: &std::io::Error| Trouble::file("cannot write", path, error);
    std::fs::create_dir_all(folder).map_err(|error| trouble(folder, &error))?;
    if let Some((name, _)) = FILES.iter().find(|(name, _)| folder.join(name).exists()) {
        return Err(Trouble::new(format!("cannot write `{}`: it is there already", folder.join(name).display()))
            .hint("`--keep` takes a new folder, or one without the files of the example"));
    }
    for (name, text) in FILES {
        let path = folder.join(name);
        if let Some(inner) = path.parent() {
            std::fs::create_dir_all(inner).map_err(|error| trouble(inner, &error))?;
        }
        files::write_new(&path, text)?;
    }
    Ok(())
}

fn tour(folder: &Path, kept: bool, paint: Paint, color: ColorChoice) -> Result<Status, Stopped> {
    let program = std::env::current_exe().map_err(|error| Trouble::new(format!("cannot find mervik: {error}")));
    let program = program.map_err(Stopped::Trouble)?;
    // What the tour calls by its name is this program.
    let folders = program.parent().map(Path::to_owned).into_iter();
    let known = std::env::var_os("PATH").unwrap_or_default();
    let path = std::env::join_paths(folders.chain(std::env::split_paths(&known))).ok();
    let mut out = std::io::stdout().lock();
    writeln!(
        out,
        "{}",
        paint.tone(Tone::Place, "The port of Halvenmouth: agents ask for berths, and the schema decides.")
    )?;
    let mut wrong = 0;
    for (number, step) in TOUR.iter().enumerate() {
        writeln!(out, "\n{} {}", paint.tone(Tone::Good, format!("{}.", number + 1)), step.says)?;
        writeln!(out, "\n{} mervik {}\n", paint.tone(Tone::Quiet, "$"), quoted(step.arguments))?;
        out.flush()?;
        let mut command = Command::new(&program);
        command.args(arguments(step.arguments)).current_dir(folder).stdin(Stdio::null());
        if let Some(path) = &path {
            command.env("PATH", path);
        }
        match color {
            ColorChoice::Auto => {}
            ColorChoice::Always => drop(command.args(["--color", "always"])),
            ColorChoice::Never => drop(command.args(["--color", "never"])),
        }
        let status =
            command.status().map_err(|error| Stopped::Trouble(Trouble::new(format!("cannot run mervik: {error}"))))?;
        let right = status.code() == Some(step.status);
        wrong += usize::from(!right);
        let (tone, verdict) =
            if right { (Tone::Quiet, "as the tour says") } else { (Tone::Bad, "not as the tour says") };
        let told = status.code().map_or("none".to_owned(), |code| code.to_string());
        writeln!(out, "\n{}", paint.tone(tone, format!("status {told}, {verdict}")))?;
    }
    writeln!(out)?;
    match wrong {
        0 => writeln!(
            out,
            "{}",
            paint.tone(Tone::Good, format!("All {} commands gave the status that the tour says.", TOUR.len()))
        )?,
        wrong => writeln!(
            out,
            "{}",
            paint.tone(Tone::Bad, format!("{wrong} commands gave another status than the tour says."))
        )?,
    }
    let place = folder.display();
    match kept {
        true => writeln!(out, "The files are in `{place}`.")?,
        false => writeln!(out, "`mervik demo --keep DIR` writes the files to DIR, to try things out.")?,
    }
    Ok(if wrong == 0 { Status::Holds } else { Status::Findings })
}

/// The arguments one by one.
fn arguments(step: &str) -> Vec<&str> {
    // What stands between quotes is one of them.
    let parts = step.split('\'').enumerate();
    let split = parts.flat_map(|(index, part)| match index % 2 {
        0 => part.split(' ').filter(|word| !word.is_empty()).collect::<Vec<_>>(),
        _ => vec![part],
    });
    split.collect()
}

/// The arguments as a shell wants them.
fn quoted(arguments: &str) -> String {
    let quote = |argument: &str| match argument.contains(['$', '#']) {
        true => format!("'{argument}'"),
        false => argument.to_owned(),
    };
    if arguments.contains('\'') {
        return arguments.to_owned();
    }
    arguments.split(' ').map(quote).collect::<Vec<_>>().join(" ")
}
