//! Tables: CSV (RFC 4180) and its like. The first row names the columns by their paths; each other row is a record.

use crate::fault::Fault;
use crate::nest::Step;
use crate::reading::{Builder, Reading};
use csv_core::{ReadFieldResult, Reader, ReaderBuilder};
use mervik_document::Span;
use mervik_document::finding::rule;

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
        RowEnds { layout: self, text, at: 0, field_start: true, quoted: false }
    }

    fn reader(self) -> Reader {
        ReaderBuilder::new().delimiter(self.delimiter).quote(self.quote).build()
    }
}

/// Iterator over the ends of rows; made by [`Layout::row_ends`].
#[derive(Clone, Debug)]
pub struct RowEnds<'t> {
    layout: Layout,
    text: &'t [u8],
    at: usize,
    field_start: bool,
    quoted: bool,
}

impl Iterator for RowEnds<'_> {
    type Item = usize;

    fn next(&mut self) -> Option<usize> {
        loop {
            let rest = self.text.get(self.at..)?;
            if self.quoted {
                // A quote that is doubled is one of the text; it closes and opens again, which comes to the same.
                self.at += memchr::memchr(self.layout.quote, rest)? + 1;
                self.quoted = false;
                self.field_start = false;
                if self.text.get(self.at) == Some(&self.layout.quote) {
                    self.quoted = true;
                    self.at += 1;
                }
                continue;
            }
            if self.field_start && rest.first() == Some(&self.layout.quote) {
                (self.quoted, self.at) = (true, self.at + 1);
                continue;
            }
            let next = memchr::memchr2(self.layout.delimiter, b'\n', rest)?;
            self.at += next + 1;
            self.field_start = true;
            if rest.get(next) == Some(&b'\n') {
                return Some(self.at);
            }
        }
    }
}

/// The columns of a table.
#[derive(Clone, Debug)]
pub struct Columns {
    layout: Layout,
    names: Vec<String>,
    /// How to come from the column before to this one.
    plan: Vec<Column>,
}

#[derive(Clone, Debug)]
struct Column {
    path: Vec<Step>,
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
        let mut columns = Columns { layout, names: Vec::new(), plan: Vec::new() };
        for Field { text, span, .. } in fields(row, layout) {
            if text.trim().is_empty() {
                let at = columns.names.len() + 1;
                return Err(Fault::syntax(span, "a name for every column", format!("none for column {at}")));
            }
            let path: Vec<Step> = text.split('.').map(|part| Step::of(part.trim())).collect();
            let clash = columns.plan.iter().position(|column| {
                let shared = column.path.len().min(path.len());
                column.path.get(..shared) == path.get(..shared)
            });
            if let Some(other) = clash.and_then(|at| columns.names.get(at)) {
                let found = format!("`{text}` beside `{other}`");
                return Err(Fault::new(rule::DUPLICATE_NAME, span, "columns that go together", found));
            }
            columns.plan.push(Column { path });
            columns.names.push(text);
        }
        if columns.names.is_empty() {
            return Err(Fault::syntax(Span { start: 0, end: 0 }, "a row of column names", "nothing"));
        }
        Ok(columns)
    }

    /// The names of the columns, as they stand.
    pub fn names(&self) -> &[String] {
        &self.names
    }

    /// Reads one row, without its line end. Fields in which nothing stands are absent; all others are text.
    ///
    /// # Errors
    ///
    /// A row with another number of fields than there are columns.
    pub fn record(&self, row: &str) -> Result<Reading, Fault> {
        let row = row.trim_end_matches(['\r', '\n']);
        let fields = fields(row, self.layout);
        if fields.len() != self.names.len() {
            return Err(self.ragged(row, &fields));
        }
        let mut tree = crate::nest::Tree::root(Span { start: 0, end: row.len() as u32 });
        for (field, column) in fields.into_iter().zip(&self.plan) {
            if !field.absent {
                tree.put(&column.path, field.span, field.text, field.span, false)?;
            }
        }
        let mut builder = Builder::default();
        tree.write(&mut builder);
        Ok(builder.take())
    }

    fn ragged(&self, row: &str, fields: &[Field]) -> Fault {
        let (wanted, met) = (self.names.len(), fields.len());
        let end = row.len() as u32;
        let span = fields.get(wanted).map_or(Span { start: end, end }, |extra| Span { start: extra.span.start, end });
        let fault = Fault::new(
            rule::ROW_LENGTH,
            span,
            format!("{wanted} field{}, one for each column", if wanted == 1 { "" } else { "s" }),
            met.to_string(),
        );
        match self.names.get(met) {
            Some(missing) => fault.hint(format!("from the column `{missing}` on there is nothing")),
            None => {
                let delimiter = char::from(self.layout.delimiter);
                fault.hint(format!("a `{delimiter}` in a value needs quotes around the value"))
            }
        }
    }
}

/// The fields of a row.
pub fn fields(row: &str, layout: Layout) -> Vec<Field> {
    let mut reader = layout.reader();
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
            ReadFieldResult::InputEmpty => continue,
            ReadFieldResult::OutputFull => continue,
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
        let Reading { json, origins } = columns.record(row).unwrap();
        assert_eq!(json, r#"{"id":"7","ship":{"name":"MV \"Tern\", x"},"cargo":[{"kind":"bulk","weight_t":"21.4"}]}"#);
        for (part, source) in [("\"21.4\"", "21.4"), ("\"MV", "\"MV \"\"Tern\"\", x\"")] {
            let span = origins.source(Span { start: json.find(part).unwrap() as u32, end: 0 });
            assert_eq!(&row[span.start as usize..span.end as usize], source);
        }
        assert_eq!(columns.record(",,,,").unwrap().json, "{}");
        assert_eq!(columns.record("\"\",,,,b").unwrap().json, r#"{"id":"","cargo":[{"kind":"b"}]}"#);
    }

    #[test]
    fn ragged_rows_and_bad_headers_are_refused() {
        let columns = Columns::read("a,b,c", COMMA).unwrap();
        for (row, start) in [("1,2", 3), ("1,2,3,4", 6), ("", 0), ("1", 1)] {
            let fault = columns.record(row).unwrap_err();
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
    fn rows_end_outside_of_quotes() {
        let ends = |text: &str| COMMA.row_ends(text.as_bytes()).collect::<Vec<_>>();
        assert_eq!(ends("a,b\n1,\"x\ny\"\n\"\"\"\n\"\"\",2\n3"), [4, 12, 22]);
        assert_eq!(ends("5\" pipe,x\n2,y\n"), [10, 14]);
        assert_eq!(ends("\"open\n"), [0; 0]);
    }

    proptest! {
        #[test]
        fn what_is_quoted_reads_back(values in prop::collection::vec("[a\",\n ]{1,6}", 1..6)) {
            let row: Vec<String> = values.iter().map(|value| format!("\"{}\"", value.replace('"', "\"\""))).collect();
            let row = row.join(",");
            let read: Vec<String> = fields(&row, COMMA).into_iter().map(|field| field.text).collect();
            prop_assert_eq!(read, values);
            let two = format!("{row}\n{row}\n");
            prop_assert_eq!(COMMA.row_ends(two.as_bytes()).collect::<Vec<_>>(), [row.len() + 1, two.len()]);
        }
    }
}
