//! Coercion of protobuf messages: from any of their forms into any other, canonically.

use super::tell::Told;
use super::{Sinks, all};
use crate::args::{CoerceCall, FormatName, LevelName, ReportName};
use crate::catalogues;
use crate::check::proto::{self as messages, Telling};
use crate::check::stream::{self, Batch, FrameSource, What};
use crate::check::{Ended, Judged};
use crate::progress::Progress;
use crate::project::Project;
use crate::proto_files;
use crate::proto_input::{self, Form, Opened};
use crate::report::{self, Report, with_stars};
use crate::status::{Status, Trouble};
use crate::style::Paint;
use data_encoding::BASE64;
use mervik_document::edit::quoted;
use mervik_document::{Tape, records};
use mervik_formats::write;
use mervik_json_schema::Step;
use mervik_proto::{self as proto, Changed, Checker, Coercion, Framing, Level, MessageId, Options, Read, Schema};
use std::io::{self, IsTerminal, Write};
use std::path::{Path, PathBuf};

/// A change of a message, as it is told.
struct MessageChange {
    change: Changed,
    step: Step,
}

impl MessageChange {
    fn new(change: Changed) -> MessageChange {
        let step = match change.to.as_str() {
            "" => Step::Remove { value: change.from.clone() },
            to => Step::Replace { from: change.from.clone(), to: to.to_owned() },
        };
        MessageChange { change, step }
    }
}

impl Told for MessageChange {
    fn at(&self) -> &str {
        &self.change.at
    }

    fn step(&self) -> &Step {
        &self.step
    }

    fn reason(&self) -> String {
        self.change.reason.word().to_owned()
    }

    fn kind(&self) -> String {
        with_stars(&self.change.at)
    }
}

/// Runs the command by a `.proto`.
pub(super) fn run(call: &CoerceCall, project: Option<&Project>, paint: Paint) -> Result<Status, Trouble> {
    let schema = proto_files::load(&call.schema, &call.language, project, paint)?;
    let root = call.root.as_deref();
    let message = proto_files::message(&schema, &call.schema, root, &call.messages, call.language.direction, project)?;
    refuse_odd_outputs(call)?;
    let mut findings = report::on_stderr(ReportName::Text, paint, catalogues::tongue(&call.language));
    let work = Work {
        schema: &schema,
        message,
        options: proto_input::options(
            &call.messages,
            call.language.now.as_deref(),
            messages::unknown(Some(call.unknown)),
        )?,
        coercion: Coercion {
            level: match call.level {
                LevelName::Exact => Level::Exact,
                LevelName::Lossless => Level::Lossless,
                LevelName::Generous => Level::Generous,
            },
        },
        to: call.to,
        original_names: call.original_names,
        telling: Telling {
            first: false,
            redact: call.redact,
            tongue: catalogues::tongue(&call.language),
            width: findings.excerpt_width(),
        },
    };
    let run = Run { call, work: &work, sinks: Sinks::open(call, None, paint, None)?, written: 0 };
    let work = |run: &mut Run<'_>, path: &PathBuf, findings: &mut dyn Report| run.file(path, findings);
    all(run, call.documents.iter(), call, findings.as_mut(), paint, work, |run| run.sinks)
}

/// Outputs that messages are not written to.
fn refuse_odd_outputs(call: &CoerceCall) -> Result<(), Trouble> {
    let binary = matches!(call.to, Some(FormatName::Protobuf | FormatName::ProtobufStream | FormatName::Grpc));
    if binary && call.output.is_none() && io::stdout().is_terminal() {
        return Err(Trouble::new("binary messages would be written to the terminal")
            .hint("`--output FILE` writes them to a file"));
    }
    match call.to {
        Some(FormatName::Yaml | FormatName::Toml | FormatName::Csv | FormatName::Form | FormatName::Env | FormatName::Xml) => {
            Err(Trouble::new("protobuf messages are not written in that format").hint(
                "`--to json` and `ndjson` write the JSON mapping, which `mervik coerce` writes in other formats by a JSON Schema",
            ))
        }
        _ => Ok(()),
    }
}

/// How messages are worked on; shared by the threads that do.
struct Work<'w> {
    schema: &'w Schema,
    message: MessageId,
    options: Options,
    coercion: Coercion,
    to: Option<FormatName>,
    original_names: bool,
    telling: Telling,
}

/// What became of one message.
struct Handed {
    output: Option<Vec<u8>>,
    changes: Vec<Changed>,
    judged: Option<Judged>,
    /// As it came, for those who want what is refused; binary messages in Base64.
    input: String,
}

/// What became of a batch.
struct HandedBatch {
    bytes: u64,
    records: Vec<Handed>,
}

impl Work<'_> {
    fn checker(&self) -> Checker<'_> {
        Checker::new(self.schema, self.message, self.options)
    }

    /// The format to write, for documents of a form.
    fn to(&self, form: Form) -> FormatName {
        self.to.unwrap_or(match form {
            Form::Stream(_) | Form::Lines => FormatName::Ndjson,
            _ => FormatName::Json,
        })
    }

    fn written(&self, read: &Read<'_, '_>, form: Form) -> Result<Vec<u8>, String> {
        let binary = |framing: Option<Framing>| {
            let message = read.to_binary();
            let mut out = framing.map_or_else(Vec::new, |framing| framing.prefix(message.len()));
            out.extend_from_slice(&message);
            out
        };
        Ok(match self.to(form) {
            FormatName::Protobuf => binary(None),
            FormatName::ProtobufStream => binary(Some(Framing::Delimited)),
            FormatName::Grpc => binary(Some(Framing::Grpc)),
            FormatName::ProtobufText => read.to_text().into_bytes(),
            FormatName::Ndjson => (read.to_json(self.original_names)? + "\n").into_bytes(),
            _ => (write::indented(&read.to_json(self.original_names)?) + "\n").into_bytes(),
        })
    }

    fn hand(
        &self,
        read: &Read<'_, '_>,
        form: Form,
        judge: impl FnOnce(&Read<'_, '_>) -> Judged,
        input: String,
    ) -> Handed {
        if !read.holds() {
            return Handed { output: None, changes: Vec::new(), judged: Some(judge(read)), input };
        }
        match self.written(read, form) {
            Ok(output) => Handed { output: Some(output), changes: read.changes(), judged: None, input },
            Err(fault) => {
                let finding = messages::frame_finding("unwritable", "what the format can say", &fault);
                let judged = self.telling.lines(vec![finding], &[], "", 0);
                Handed { output: None, changes: Vec::new(), judged: Some(judged), input }
            }
        }
    }

    fn binary(&self, checker: &Checker<'_>, bytes: &[u8], base: u64, form: Form) -> Handed {
        let read = checker.coerce(proto::Form::Binary(bytes), self.coercion);
        let input = if read.holds() { String::new() } else { quoted(&BASE64.encode(bytes)) };
        self.hand(&read, form, |read| self.telling.binary(read, bytes, base), input)
    }

    fn text(&self, checker: &Checker<'_>, bytes: &[u8], lines_before: u64, form: Form, tape: &mut Tape) -> Handed {
        let handed = messages::with_text(form, bytes, tape, self.telling, |message, text| {
            let read = checker.coerce(message, self.coercion);
            self.hand(&read, form, |read| self.telling.text(read, text, lines_before), text.to_owned())
        });
        handed.unwrap_or_else(|wrong| {
            let (finding, input) = *wrong;
            let judged = Some(self.telling.lines(vec![finding], &[], &input, lines_before));
            Handed { output: None, changes: Vec::new(), judged, input }
        })
    }

    fn batch(&self, checker: &Checker<'_>, batch: &Batch<'_>, form: Form, tape: &mut Tape) -> HandedBatch {
        let mut handed = HandedBatch { bytes: batch.bytes.len() as u64, records: Vec::new() };
        let refused = |judged| Handed { output: None, changes: Vec::new(), judged: Some(judged), input: String::new() };
        match batch.what {
            What::Messages(framing) => {
                for range in batch.items {
                    let bytes = batch.bytes.get(range.clone()).unwrap_or_default();
                    let base = batch.lines_before + range.start as u64;
                    handed.records.push(match messages::inflated(framing, batch, range.start, bytes) {
                        None => self.binary(checker, bytes, base, form),
                        Some(Ok(bytes)) => self.binary(checker, &bytes, 0, form),
                        Some(Err(finding)) => refused(messages::framed(*finding, self.telling, bytes, base)),
                    });
                }
            }
            What::Lines(_) => {
                for record in records::records(batch.bytes) {
                    let before = batch.lines_before + record.line;
                    handed.records.push(self.text(checker, record.bytes, before, form, tape));
                }
            }
            What::Broken(rule, expected, found) => {
                let finding = messages::frame_finding(rule, expected, found);
                handed.records.push(refused(messages::framed(finding, self.telling, batch.bytes, batch.lines_before)));
            }
            _ if matches!(form, Form::Stream(_)) => {
                handed.records.push(refused(messages::too_long(self.telling, batch)))
            }
            _ => handed.records.push(refused(stream::too_long(self.telling.tongue, batch.lines_before))),
        }
        handed
    }
}

struct Run<'c> {
    call: &'c CoerceCall,
    work: &'c Work<'c>,
    sinks: Sinks<'c>,
    written: u64,
}

impl Run<'_> {
    fn file(&mut self, path: &Path, findings: &mut dyn Report) -> Result<(), Ended> {
        let work = self.work;
        let mut opened = Opened::open(path, self.call.input.format, &self.call.messages)?;
        self.sinks.counts.documents += 1;
        let (name, form) = (opened.name.clone(), opened.form);
        if let Some((finding, text)) = opened.fault.take() {
            let judged = Some(work.telling.lines(vec![finding], &[], &text, 0));
            return self.tell(
                &name,
                1,
                Handed { output: None, changes: Vec::new(), judged, input: text },
                form,
                findings,
            );
        }
        let head = std::mem::take(&mut opened.head);
        let source: Box<dyn stream::Supply> = match form {
            Form::Stream(framing) => Box::new(FrameSource::new(&name, head, opened.rest, opened.at_end, framing)),
            Form::Lines => Box::new(stream::Source::of(&name, head, opened.rest, opened.at_end)),
            _ => {
                opened.head = head;
                let bytes = opened.all()?;
                let checker = work.checker();
                let handed = match form {
                    Form::Binary => work.binary(&checker, &bytes, 0, form),
                    _ => work.text(&checker, &bytes, 0, form, &mut Tape::new()),
                };
                return self.tell(&name, 1, handed, form, findings);
            }
        };
        let mut progress = Progress::new(&name, opened.size);
        let mut number = 0;
        let worker = || {
            let (checker, mut tape) = (work.checker(), Tape::new());
            move |batch: &Batch<'_>| work.batch(&checker, batch, form, &mut tape)
        };
        let outcome = stream::run(source, worker, |batch: HandedBatch| {
            progress.advance(batch.bytes);
            progress.suspend(|| {
                batch.records.into_iter().try_for_each(|handed| {
                    number += 1;
                    self.tell(&name, number, handed, form, findings)
                })
            })
        });
        progress.finish();
        outcome
    }

    /// Hands one message on, and tells what became of it.
    fn tell(
        &mut self,
        name: &str,
        number: u64,
        handed: Handed,
        form: Form,
        findings: &mut dyn Report,
    ) -> Result<(), Ended> {
        self.sinks.counts.records += 1;
        let Handed { output, changes, judged, input } = handed;
        if let Some(judged) = &judged {
            self.sinks.counts.add(judged);
            findings.record(name, number, judged).map_err(Ended::from)?;
            self.sinks.rejects.write(|out| report::rejected(out, name, number, judged, &input))?;
        }
        if self.call.changes.is_some() {
            self.sinks.changes.write(|out| list(out, &changes).and_then(|()| out.write_all(b"\n")))?;
        }
        let Some(output) = output else { return Ok(()) };
        self.sinks.handed_on += 1;
        let changes: Vec<MessageChange> = changes.into_iter().map(MessageChange::new).collect();
        self.sinks.told.record(name, number, &changes, findings)?;
        let single = match self.work.to(form) {
            FormatName::Protobuf => Some("a binary message"),
            FormatName::ProtobufText => Some("a message in the text format"),
            _ => None,
        };
        self.written += 1;
        if let Some(single) = single.filter(|_| self.written > 1) {
            let trouble = Trouble::new(format!("{single} is all of a file, and there are more"));
            return Err(trouble.hint("`--to protobuf-stream` and `--to ndjson` write one after the other").into());
        }
        self.sinks.output.write_bytes(&output)
    }
}

/// Writes changes as one list on one line: each with the path, what stood there and what does now, and the reason.
fn list(out: &mut dyn Write, changes: &[Changed]) -> io::Result<()> {
    out.write_all(b"[")?;
    for (index, Changed { at, from, to, reason }) in changes.iter().enumerate() {
        let comma = if index > 0 { "," } else { "" };
        let after = if to.is_empty() { "null".to_owned() } else { quoted(to) };
        let (at, from, reason) = (quoted(at), quoted(from), quoted(reason.word()));
        write!(out, r#"{comma}{{"at":{at},"before":{from},"after":{after},"reason":{reason}}}"#)?;
    }
    out.write_all(b"]")
}
