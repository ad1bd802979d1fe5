//! Tables: CSV (RFC 4180) and its like. The first row names the columns by their paths; each other row is a record.

mod plan;

use crate::fault::Fault;
use crate::nest::{MAX_STEPS, Step, Tree};
use crate::phrases::Phrases as _;
use crate::reading::{Builder, Reading};
use csv_core::{ReadFieldResult, ReadRecordResult, Reader, ReaderBuilder, Terminator};
use mervik_document::Span;
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Phrase};
use plan::{Plan, Texts};
use std::collections::HashMap;

/// How the fields of a table are told apart.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Layout {
    /// What stands between two fields.
    pub delimiter: u8,
    /// What a field with a delimiter or a line end in it stands between.
    pub quote: u8,
}

/// What may stand between fields, the likeliest first.
const DELIMITERS: [u8; 4] = [b',', b';', b'\t', b'|'];

impl Layout {
    /// The layout that the first row of a table suggests: the delimiter that it has most often outside of quotes.
    pub fn sniffed(text: &[u8]) -> Layout {
        let mut layout = Layout { delimiter: b',', quote: b'"' };
        let row = layout.row_end(text, true).and_then(|end| text.get(..end)).unwrap_or(text);
        let row = row.get(..row.len().min(1 << 16)).unwrap_or_default();
        let single = row.first() == Some(&b'\'');
        layout.quote = if single { b'\'' } else { b'"' };
        let mut counts = [0usize; DELIMITERS.len()];
        let mut quoted = false;
        for byte in row {
            if *byte == layout.quote {
                quoted = !quoted;
            }
            let found = DELIMITERS.iter().position(|delimiter| delimiter == byte && !quoted);
            if let Some(count) = found.and_then(|at| counts.get_mut(at)) {
                *count += 1;
            }
        }
        let most = counts.iter().copied().max().unwrap_or(0);
        let likeliest = DELIMITERS.iter().zip(counts).find(|(_, count)| *count == most && most > 0);
        layout.delimiter = likeliest.map_or(b',', |(delimiter, _)| *delimiter);
        layout
    }

    /// Where the first row of `text` ends, its line end included; `None` when that is not there and more may come.
    fn row_end(self, text: &[u8], at_end: bool) -> Option<usize> {
        let end = self.row_ends(text).next();
        end.or_else(|| at_end.then_some(text.len()).filter(|length| *length > 0))
    }

    /// The offsets after the line ends that end a row. O(length).
    pub fn row_ends(self, text: &[u8]) -> RowEnds<'_> {
        RowEnds { layout: self, text, start: 0 }
    }

    /// Where the quote stands in a row that opens a field and is never closed.
    fn unclosed(self, row: &str) -> Option<usize> {
        let text = row.as_bytes();
        let ends = self.row_ends(text);
        let mut at = 0;
        loop {
            let found = at + memchr::memchr(self.quote, text.get(at..)?)?;
            at = found + 1;
            let before = found.checked_sub(1).and_then(|before| text.get(before));
            if before.is_none_or(|before| *before == self.delimiter) {
                match ends.closed(at) {
                    Some(closed) => at = closed,
                    None => return Some(found),
                }
            }
        }
    }

    /// That a quote is never closed: what stands behind it may be many rows, taken for one value.
    fn fault_of_quotes(self, row: &str) -> Option<Fault> {
        let open = self.unclosed(row)? as u32;
        let expected = Phrase::of(|tongue| tongue.closing_quote(char::from(self.quote)));
        let found = Phrase::of(|tongue| tongue.end_of_table());
        Some(Fault::syntax(Span { start: open, end: open + 1 }, expected, found))
    }

    fn reader(self) -> Reader {
        // A carriage return alone ends no row.
        let terminator = Terminator::Any(b'\n');
        ReaderBuilder::new().delimiter(self.delimiter).quote(self.quote).terminator(terminator).build()
    }
}

/// Iterator over the ends of rows; made by [`Layout::row_ends`].
#[derive(Clone, Debug)]
pub struct RowEnds<'t> {
    layout: Layout,
    text: &'t [u8],
    /// Where the row starts of which the end is sought.
    start: usize,
}

impl Iterator for RowEnds<'_> {
    type Item = usize;

    /// PERF: of a row without quotes nothing but its line end is sought.
    fn next(&mut self) -> Option<usize> {
        let Layout { delimiter, quote } = self.layout;
        let mut at = self.start;
        loop {
            let found = at + memchr::memchr2(quote, b'\n', self.text.get(at..)?)?;
            at = found + 1;
            if self.text.get(found) == Some(&b'\n') {
                self.start = at;
                return Some(at);
            }
            // A quote opens a field where it starts, and is one of the text elsewhere.
            let before = found.checked_sub(1).and_then(|before| self.text.get(before));
            if found == self.start || before == Some(&delimiter) {
                at = self.closed(at)?;
            }
        }
    }
}

impl RowEnds<'_> {
    /// Where the quotes close that have opened just before `at`.
    fn closed(&self, mut at: usize) -> Option<usize> {
        loop {
            at += memchr::memchr(self.layout.quote, self.text.get(at..)?)? + 1;
            // A quote that is doubled is one of the text.
            if self.text.get(at) != Some(&self.layout.quote) {
                return Some(at);
            }
            at += 1;
        }
    }
}

/// The columns of a table.
#[derive(Clone, Debug)]
pub struct Columns {
    layout: Layout,
    names: Vec<String>,
    paths: Vec<Vec<Step>>,
    plan: Plan,
}

/// A field of a row.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Field {
    /// What it says.
    pub text: String,
    /// Where it stands in the row, quotes and all.
    pub span: Span,
    /// Whether nothing at all stands there, not even quotes.
    pub absent: bool,
}

impl Columns {
    /// Reads the row of names. `cargo.0.weight` is the member `weight` of the first item of `cargo`.
    ///
    /// # Errors
    ///
    /// Names that come again, are empty, or contradict each other.
    pub fn read(row: &str, layout: Layout) -> Result<Columns, Fault> {
        let row = row.trim_end_matches(['\r', '\n']);
        if let Some(fault) = layout.fault_of_quotes(row) {
            return Err(fault);
        }
        let (mut names, mut paths): (Vec<String>, Vec<Vec<Step>>) = (Vec::new(), Vec::new());
        let (mut ends, mut on_the_way) = (HashMap::<Vec<Step>, usize>::new(), HashMap::<Vec<Step>, usize>::new());
        for Field { text, span, .. } in fields(&mut layout.reader(), row) {
            if text.trim().is_empty() {
                let at = names.len() + 1;
                return Err(Fault::syntax(
                    span,
                    Phrase::of(|tongue| tongue.column_names()),
                    Phrase::of(|tongue| tongue.none_for_column(at)),
                ));
            }
            let path: Vec<Step> = text.split('.').map(|part| Step::of(part.trim())).collect();
            // The same path, one on the way to it, or one beyond it.
            let before = (1..=path.len()).find_map(|length| ends.get(path.get(..length)?));
            let clash = before.or_else(|| on_the_way.get(&path)).copied();
            if let Some(other) = clash.and_then(|at: usize| names.get(at)) {
                let found = Phrase::of(|tongue| tongue.beside(&text, other));
                return Err(Fault::new(
                    rule::DUPLICATE_NAME,
                    span,
                    Phrase::of(|tongue| tongue.columns_together()),
                    found,
                ));
            }
            if path.len() > MAX_STEPS {
                return Err(Fault::new(
                    rule::NESTING,
                    span,
                    Phrase::of(|tongue| tongue.levels(MAX_STEPS)),
                    Phrase::of(|tongue| tongue.more()),
                ));
            }
            for length in 1..path.len() {
                on_the_way.entry(path.get(..length).unwrap_or_default().to_vec()).or_insert(names.len());
            }
            ends.insert(path.clone(), names.len());
            paths.push(path);
            names.push(text);
        }
        if names.is_empty() {
            return Err(Fault::syntax(
                Span { start: 0, end: 0 },
                Phrase::of(|tongue| tongue.row_of_names()),
                Phrase::of(|tongue| tongue.nothing()),
            ));
        }
        let plan = Plan::new(&paths);
        Ok(Columns { layout, names, paths, plan })
    }

    /// The names of the columns, as they stand.
    pub fn names(&self) -> &[String] {
        &self.names
    }

    /// The same, which also know in which columns no text is wanted: `typed` tells it of a path.
    pub fn typed(mut self, typed: impl Fn(&[String]) -> bool) -> Columns {
        let words = |path: &[Step]| path.iter().map(Step::word).collect::<Vec<String>>();
        let typed: Vec<bool> = self.paths.iter().map(|path| typed(&words(path))).collect();
        self.plan.set_typed(&typed);
        self
    }

    /// Reads rows one after the other; one for each thread.
    pub fn rows(&self) -> Rows<'_> {
        let (buffer, ends, spans) = (Vec::new(), Vec::new(), Vec::new());
        Rows { columns: self, reader: self.layout.reader(), buffer, ends, spans, json: String::new() }
    }

    fn ragged(&self, row: &str, fields: &[Field]) -> Fault {
        let (wanted, met) = (self.names.len(), fields.len());
        let end = row.len() as u32;
        let span = fields.get(wanted).map_or(Span { start: end, end }, |extra| Span { start: extra.span.start, end });
        let fault = Fault::new(
            rule::ROW_LENGTH,
            span,
            Phrase::of(|tongue| if wanted == 1 { tongue.one_field() } else { tongue.fields(wanted) }),
            met.to_string(),
        );
        match self.names.get(met) {
            Some(missing) => fault.hint(Phrase::of(|tongue| tongue.nothing_from(missing))),
            None => {
                let delimiter = char::from(self.layout.delimiter);
                fault.hint(Phrase::of(|tongue| tongue.needs_quotes(delimiter)))
            }
        }
    }
}

/// Reads the rows of a table.
pub struct Rows<'c> {
    columns: &'c Columns,
    reader: Reader,
    buffer: Vec<u8>,
    ends: Vec<usize>,
    spans: Vec<(usize, usize)>,
    json: String,
}

impl<'c> Rows<'c> {
    /// Reads one row, without its line end. Fields in which nothing stands are absent; all others are text.
    ///
    /// # Errors
    ///
    /// A row with another number of fields than there are columns.
    pub fn record(&mut self, row: &str) -> Result<Reading, Fault> {
        let row = row.trim_end_matches(['\r', '\n']);
        let columns = self.columns;
        if let Some(fault) = columns.layout.fault_of_quotes(row) {
            return Err(fault);
        }
        let fields = fields(&mut self.reader, row);
        if fields.len() != columns.names.len() {
            return Err(columns.ragged(row, &fields));
        }
        let mut tree = Tree::root(Span { start: 0, end: row.len() as u32 });
        for column in columns.plan.order() {
            let (Some(field), Some(path)) = (fields.get(column), columns.paths.get(column)) else { continue };
            if !field.absent {
                tree.put(path, field.span, field.text.clone(), field.span, false)?;
            }
        }
        let mut builder = Builder::default();
        tree.write(&mut builder);
        Ok(builder.take())
    }

    /// The row as JSON in which fields of columns where no text is wanted are the numbers, booleans and nulls that they
    /// say; `None` for a row that takes a closer look.
    ///
    /// PERF: for the many rows that hold: nothing is allocated, and no places are kept.
    pub fn guess(&mut self, row: &str) -> Option<&str> {
        let row = row.trim_end_matches(['\r', '\n']);
        if let Some(fields) = Texts::plain(row, self.columns.layout, &mut self.spans) {
            let fits = fields.count() == self.columns.names.len();
            return (fits && self.columns.plan.write(fields, &mut self.json)).then_some(self.json.as_str());
        }
        let wanted = self.columns.names.len();
        if self.buffer.len() < row.len() + 1 {
            self.buffer.resize(row.len() + 1, 0);
        }
        if self.ends.len() < wanted + 1 {
            self.ends.resize(wanted + 1, 0);
        }
        self.reader.reset();
        let (first, read, written, ended) = self.reader.read_record(row.as_bytes(), &mut self.buffer, &mut self.ends);
        let ended = match first {
            ReadRecordResult::InputEmpty if read == row.len() => {
                let rest = self.buffer.get_mut(written..).unwrap_or_default();
                let (last, _, _, more) = self.reader.read_record(&[], rest, self.ends.get_mut(ended..)?);
                if last != ReadRecordResult::Record {
                    return None;
                }
                ended + more
            }
            _ => return None,
        };
        // Of an empty field in a row with quotes it is not known whether it stands between them.
        let quoted = memchr::memchr(self.columns.layout.quote, row.as_bytes()).is_some();
        if ended != wanted || (quoted && self.columns.layout.unclosed(row).is_some()) {
            return None;
        }
        let ends = self.ends.get(..wanted)?;
        let fields = Texts::new(self.buffer.get(..ends.last().copied()?)?, ends, &mut self.spans)?;
        if quoted && fields.any_empty() {
            return None;
        }
        self.columns.plan.write(fields, &mut self.json).then_some(self.json.as_str())
    }
}

/// The fields of a row.
fn fields(reader: &mut Reader, row: &str) -> Vec<Field> {
    reader.reset();
    let mut fields = Vec::new();
    let mut buffer = vec![0u8; row.len() + 1];
    let mut rest = row.as_bytes();
    let (mut start, mut text) = (0usize, Vec::new());
    let mut at = 0usize;
    loop {
        let (result, read, written) = reader.read_field(rest, &mut buffer);
        rest = rest.get(read..).unwrap_or_default();
        at += read;
        text.extend_from_slice(buffer.get(..written).unwrap_or_default());
        match result {
            // The end of the input closes the last field.
            ReadFieldResult::InputEmpty | ReadFieldResult::OutputFull => continue,
            ReadFieldResult::Field { record_end } => {
                let end = if record_end && rest.is_empty() { row.len() } else { at - 1 };
                let source = row.get(start..end).unwrap_or("");
                let span = Span { start: start as u32, end: end as u32 };
                let said = String::from_utf8_lossy(&text).into_owned();
                fields.push(Field { text: said, span, absent: source.is_empty() });
                start = at;
                text.clear();
                if record_end {
                    return fields;
                }
            }
            ReadFieldResult::End => return fields,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const COMMA: Layout = Layout { delimiter: b',', quote: b'"' };

    #[test]
    fn rows_become_records_and_fields_lead_back() {
        let columns = Columns::read("id,ship.name,cargo.0.kind,cargo.0.weight_t,cargo.1.kind\r\n", COMMA).unwrap();
        let row = "7,\"MV \"\"Tern\"\", x\",bulk,21.4,\n";
        let Reading { json, origins } = columns.rows().record(row).unwrap();
        assert_eq!(json, r#"{"id":"7","ship":{"name":"MV \"Tern\", x"},"cargo":[{"kind":"bulk","weight_t":"21.4"}]}"#);
        for (part, source) in [("\"21.4\"", "21.4"), ("\"MV", "\"MV \"\"Tern\"\", x\"")] {
            let span = origins.source(Span { start: json.find(part).unwrap() as u32, end: 0 });
            assert_eq!(&row[span.start as usize..span.end as usize], source);
        }
        assert_eq!(columns.rows().record(",,,,").unwrap().json, "{}");
        assert_eq!(columns.rows().record("7\r8,,,,\r\n").unwrap().json, r#"{"id":"7\r8"}"#);
        assert_eq!(columns.rows().record("\"\",,,,b").unwrap().json, r#"{"id":"","cargo":[{"kind":"b"}]}"#);
    }

    #[test]
    fn ragged_rows_and_bad_headers_are_refused() {
        let columns = Columns::read("a,b,c", COMMA).unwrap();
        for (row, start) in [("1,2", 3), ("1,2,3,4", 6), ("", 0), ("1", 1)] {
            let fault = columns.rows().record(row).unwrap_err();
            assert_eq!((fault.rule, fault.span.start), ("row-length", start), "{row}: {fault:?}");
        }
        for (row, rule) in [
            ("a,a", "duplicate-name"),
            ("a,a.b", "duplicate-name"),
            ("a,,b", "syntax"),
            ("", "syntax"),
            ("a.b,a", "duplicate-name"),
        ] {
            assert_eq!(Columns::read(row, COMMA).map_err(|fault| fault.rule).err(), Some(rule), "{row}");
        }
    }

    #[test]
    fn the_layout_is_told_by_the_first_row() {
        let table = [
            ("a,b,c\n1;2,3,4", b',', b'"'),
            ("a;b;c\n1,2;3,4", b';', b'"'),
            ("a\tb\n", b'\t', b'"'),
            ("\"a,b\";c\n", b';', b'"'),
            ("'a,b'|c\n", b'|', b'\''),
            ("a\n", b',', b'"'),
            ("", b',', b'"'),
        ];
        for (text, delimiter, quote) in table {
            assert_eq!(Layout::sniffed(text.as_bytes()), Layout { delimiter, quote }, "{text}");
        }
    }

    #[test]
    fn a_quote_that_never_closes_is_told_where_it_stands() {
        let columns = Columns::read("a,b", COMMA).unwrap();
        for (row, at) in [("1,\"x\n5,6\n", 2), ("\"", 0), ("a\"b,\"x\"\"", 4)] {
            let mut rows = columns.rows();
            assert_eq!(rows.guess(row), None, "{row}");
            let fault = rows.record(row).unwrap_err();
            assert_eq!((fault.rule, fault.span.start), (rule::SYNTAX, at), "{row}");
        }
        for row in ["1,\"x\"", "\"a\"\"b\",c", "a\"b,c", "\"\",\"\""] {
            assert!(columns.rows().record(row).is_ok(), "{row}");
        }
    }

    #[test]
    fn rows_end_outside_of_quotes() {
        let ends = |text: &str| COMMA.row_ends(text.as_bytes()).collect::<Vec<_>>();
        assert_eq!(ends("a,b\n1,\"x\ny\"\n\"\"\"\n\"\"\",2\n3"), [4, 12, 22]);
        assert_eq!(ends("5\" pipe,x\n2,y\n"), [10, 14]);
        assert_eq!(ends("\"open\n"), [0; 0]);
    }

    #[test]
    fn a_guess_says_what_the_record_says() {
        let names = "b.1,id,ship.name,b.0,ship.ok,ship.n,list.0.a,list.0.b,list.1.a,\"q\"\"\",z";
        let columns = Columns::read(names, COMMA).unwrap().typed(|path| {
            let path: Vec<&str> = path.iter().map(String::as_str).collect();
            matches!(path.as_slice(), ["id"] | ["ship", "n" | "ok"] | ["list", _, "b"])
        });
        let mut rows = columns.rows();
        let table = [
            (
                "y,7,Tern,x,true,1e3,p,-2,q,w,",
                Some(
                    r#"{"b":["x","y"],"id":7,"ship":{"name":"Tern","ok":true,"n":1e3},"list":[{"a":"p","b":-2},{"a":"q"}],"q\"":"w"}"#,
                ),
            ),
            (",,,,,,,,,,", Some("{}")),
            (
                ",07,,x,yes,null,,,q,,7",
                Some(r#"{"b":["x"],"id":"07","ship":{"ok":"yes","n":null},"list":[{"a":"q"}],"z":"7"}"#),
            ),
            (
                "y,7,\"T, \"\"r\"\"\",x,true,1,p,2,q,w,é",
                Some(
                    r#"{"b":["x","y"],"id":7,"ship":{"name":"T, \"r\"","ok":true,"n":1},"list":[{"a":"p","b":2},{"a":"q"}],"q\"":"w","z":"é"}"#,
                ),
            ),
            (",,\"\",,,,,,,,", None),
            ("1,2", None),
            (",,,,,,,,,,,", None),
            (",,a\tb,,,,,,,,", Some(r#"{"ship":{"name":"a\tb"}}"#)),
        ];
        for (row, expected) in table {
            assert_eq!(rows.guess(row), expected, "{row}");
            if let (Some(json), Ok(reading)) = (expected, columns.rows().record(row)) {
                let untyped = reading.json.replace('"', "");
                assert_eq!(json.replace('"', ""), untyped, "{row}");
            }
        }
    }

    proptest! {
        #[test]
        fn a_guess_is_never_wrong(row in r#"([a",;' \\\r]|""|","){0,12}"#, single in prop::bool::ANY) {
            let layout = Layout { delimiter: b',', quote: if single { b'\'' } else { b'"' } };
            let columns = Columns::read("a,c.1,c.0", layout).unwrap();
            let mut rows = columns.rows();
            if let Some(json) = rows.guess(&row).map(str::to_owned) {
                prop_assert_eq!(Ok(json), rows.record(&row).map(|reading| reading.json));
            }
        }

        #[test]
        fn what_is_quoted_reads_back(values in prop::collection::vec("[a\",\n ]{1,6}", 1..6)) {
            let row: Vec<String> = values.iter().map(|value| format!("\"{}\"", value.replace('"', "\"\""))).collect();
            let row = row.join(",");
            let read: Vec<String> = fields(&mut COMMA.reader(), &row).into_iter().map(|field| field.text).collect();
            prop_assert_eq!(read, values);
            let two = format!("{row}\n{row}\n");
            prop_assert_eq!(COMMA.row_ends(two.as_bytes()).collect::<Vec<_>>(), [row.len() + 1, two.len()]);
        }
    }
}
