//! Rules between fields: what they read of documents, what is told, what a schema may not say.

#![allow(clippy::unwrap_used, clippy::panic, clippy::indexing_slicing, reason = "tests may fail loudly")]

use mervik_document::Severity;
use mervik_versions::Role;
use mervik_xsd::{Compiled, Fetch, FetchError, Fetched, Options, check, compare, compile};

struct Nowhere;

impl Fetch for Nowhere {
    fn fetch(&mut self, _: &str) -> Result<Fetched, FetchError> {
        Err(FetchError { reason: "is nowhere".to_owned(), hint: None })
    }
}

fn compiled(text: &str) -> Compiled {
    compile("s.xsd", "file:///s.xsd", text.to_owned(), &mut Nowhere).unwrap()
}

/// A manifest with rules about its root, its items, and its type.
fn manifest(root: &str, item: &str, ty: &str) -> String {
    let note = |rules: &str| match rules {
        "" => String::new(),
        rules => format!("<xs:annotation><xs:appinfo>{rules}</xs:appinfo></xs:annotation>"),
    };
    format!(
        r#"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:d="urn:mervik:directives" xmlns="urn:h" targetNamespace="urn:h" elementFormDefault="qualified">
<xs:element name="manifest" type="Manifest">{}</xs:element>
<xs:complexType name="Manifest">{}<xs:sequence>
  <xs:element name="arrival" type="xs:dateTime" minOccurs="0"/>
  <xs:element name="departure" type="xs:dateTime" minOccurs="0"/>
  <xs:element name="day" type="xs:date" minOccurs="0"/>
  <xs:element name="sealed" type="xs:boolean" minOccurs="0"/>
  <xs:element name="marks" minOccurs="0"><xs:simpleType><xs:list itemType="xs:int"/></xs:simpleType></xs:element>
  <xs:element name="item" minOccurs="0" maxOccurs="unbounded">{}<xs:complexType><xs:sequence>
    <xs:element name="mass"><xs:complexType><xs:simpleContent><xs:extension base="xs:decimal"><xs:attribute name="unit" default="t"/></xs:extension></xs:simpleContent></xs:complexType></xs:element>
    </xs:sequence><xs:attribute name="no" type="xs:positiveInteger"/></xs:complexType></xs:element>
  <xs:element name="total" type="xs:decimal" minOccurs="0"/>
  <xs:element name="code" minOccurs="0"><xs:simpleType><xs:union memberTypes="xs:int xs:boolean"/></xs:simpleType></xs:element>
</xs:sequence><xs:attribute name="number" type="xs:token"/></xs:complexType></xs:schema>"#,
        note(root),
        note(ty),
        note(item)
    )
}

fn rule(that: &str, more: &str) -> String {
    format!(r#"<d:rules id="r" that="{}" {more}/>"#, that.replace('"', "&quot;"))
}

/// What is said of a manifest with this content.
fn said(schema: &str, content: &str) -> Vec<String> {
    let compiled = compiled(schema);
    assert!(!compiled.is_broken(), "{:#?}", compiled.remarks);
    let text = format!("<manifest xmlns=\"urn:h\"{content}</manifest>");
    let found = check(&compiled.schema, text.as_bytes(), &Options::default()).unwrap();
    let told = found.into_iter().map(|found| {
        let finding = found.finding;
        let reads = finding.reads.iter().map(|read| format!("{} {} {}", read.path, read.found, read.at));
        let reads: Vec<String> = reads.collect();
        format!("{} {} {}: {} [{}]", finding.severity, finding.rule, finding.at, finding.message, reads.join(", "))
    });
    told.collect()
}

#[test]
fn conditions_hold_or_not_on_documents() {
    let (early, late) = ("2026-05-07T05:00:00Z", "2026-05-07T06:00:00+01:00");
    let stay = |from: &str, to: &str| format!("><arrival>{from}</arrival><departure>{to}</departure>");
    let items = |items: &[(&str, &str)], rest: &str| {
        let items = items.iter().map(|(no, mass)| format!("<item no=\"{no}\"><mass>{mass}</mass></item>"));
        format!(">{}{rest}", items.collect::<String>())
    };
    for (that, content, holds) in [
        ("departure is not before arrival", stay(early, late), true),
        ("departure is after arrival", stay(early, late), false),
        ("departure is after arrival", format!("><arrival>{early}</arrival>"), true),
        ("day is 2026-05-07", "><day>2026-05-07+01:00</day>".to_owned(), true),
        ("sealed", "><sealed> 1 </sealed>".to_owned(), true),
        ("sealed", "><sealed>false</sealed>".to_owned(), false),
        ("sum of item.mass is total", items(&[("1", "+1.5"), ("2", ".5")], "<total>2.0</total>"), true),
        ("sum of item.mass is total", items(&[("1", "1.5")], "<total>2</total>"), false),
        // No element of a name is an empty list of them.
        ("sum of item.mass is total", "><total>0</total>".to_owned(), true),
        ("count of item is at least 1", ">".to_owned(), false),
        ("item is present", ">".to_owned(), false),
        ("item.no are distinct", items(&[("1", "1"), ("1", "2")], ""), false),
        ("each one among item: one.mass.unit is \"t\"", items(&[("1", "1")], ""), true),
        ("number begins with \"HM\"", " number='HM-1'>".to_owned(), true),
        ("`@number` begins with \"HM\"", " number='X-1'>".to_owned(), false),
        ("largest of marks is at most 9", "><marks>1 10  2</marks>".to_owned(), false),
        ("count of marks is 3", "><marks>1 10  2</marks>".to_owned(), true),
        // What is not of its type is for its own rule to tell.
        ("total is 1", "><total>x</total>".to_owned(), true),
    ] {
        let told = said(&manifest(&rule(that, ""), "", ""), &content);
        let rules: Vec<&String> = told.iter().filter(|one| one.contains(" r ")).collect();
        assert_eq!(rules.is_empty(), holds, "{that} on {content}: {told:?}");
        // About the type it says the same.
        let of_type = said(&manifest("", "", &rule(that, "")), &content);
        assert_eq!(of_type, told, "{that} on {content}");
    }
}

#[test]
fn what_breaks_a_rule_is_told_with_what_it_read() {
    let content = "><item no='1'><mass>1.5</mass></item><item no='2'><mass>2</mass></item><total>3</total>";
    let reads = "[item.mass 1.5 /manifest/item[1]/mass, item.mass 2 /manifest/item[2]/mass, total 3 /manifest/total]";
    let that = "sum of item.mass is total";
    assert_eq!(
        said(&manifest(&rule(that, ""), "", ""), content),
        [format!("error r /manifest: must keep the rule `{that}` {reads}")]
    );
    let own = r#"severity="warning" message="Not { $total } t: { $item-mass }.""#;
    assert_eq!(
        said(&manifest(&rule(that, own), "", ""), content),
        [format!("warning r /manifest: Not 3 t: 1.5, 2. {reads}")]
    );
    let guarded = manifest(&rule("sealed is present", "when=\"total is more than 2\""), "", "");
    assert_eq!(
        said(&guarded, content),
        [
            "error r /manifest: must keep the rule `if total is more than 2 then sealed is present` [total 3 /manifest/total]"
        ]
    );
    // What lies above is read however far below it stands.
    let within = manifest("", &rule("mass is at most above.total", ""), "");
    assert_eq!(said(&within, content), Vec::<String>::new());
    assert_eq!(
        said(&within, &content.replace("<total>3", "<total>1.75")),
        [
            "error r /manifest/item[2]: must keep the rule `mass is at most above.total` [mass 2 /manifest/item[2]/mass, above.total 1.75 /manifest/total]"
        ]
    );
}

#[test]
fn rules_that_cannot_be_are_errors_of_the_schema() {
    for (rules, message, hint, place) in [
        (rule("totl is 1", ""), "no field `totl` is declared", "`total` is near", "totl"),
        (rule("total is after arrival", ""), "lies neither before nor after", "", "total"),
        (rule("code is 1", ""), "several kinds", "", "code"),
        (rule("total is", ""), "", "", ""),
        (rule("total is 1", "severity=\"fatal\""), "`fatal` is no severity", "`error` or `warning`", ""),
        (rule("total is 1", "wen=\"total is 2\""), "a rule has no `wen`", "`when` is near", ""),
        (
            rule("total is 1", "message=\"{ $totl }\""),
            "there is nothing to fill in for `totl`",
            "`total` is near",
            "totl",
        ),
        ("<d:rules id=\"r\"/>".to_owned(), "a rule must have an `id` and a condition", "", ""),
        (format!("{}{}", rule("total is 1", ""), rule("total is 2", "")), "stated twice", "", ""),
        ("<d:messages for=\"maxLength\"/>".to_owned(), "have a `text`", "", ""),
        (
            "<d:messages for=\"maxLength\" text=\"{ value }\"/>".to_owned(),
            "`value` is no placeholder",
            "{ $value }",
            "value",
        ),
        ("<d:key>no key</d:key>".to_owned(), "`key` must be a name", "", ""),
    ] {
        let compiled = compiled(&manifest(&rules, "", ""));
        let errors: Vec<&mervik_xsd::Remark> =
            compiled.remarks.iter().filter(|remark| remark.severity == Severity::Error).collect();
        let [error] = &errors[..] else { panic!("{rules}: {errors:?}") };
        let said = format!("{} ({})", error.message, error.hint.as_deref().unwrap_or(""));
        assert!(said.contains(message) && said.contains(hint), "{rules}: {said}");
        if !place.is_empty() {
            let meant: String =
                error.line_text.chars().skip(error.place.column as usize - 1).take(error.width as usize).collect();
            assert_eq!(meant, place, "{rules}");
        }
    }
    // A reference declares nothing that a rule could be about.
    let reference = manifest("", "", "").replace(
        "<xs:element name=\"total\"",
        &format!("<xs:element ref=\"manifest\" minOccurs=\"0\"><xs:annotation><xs:appinfo>{}</xs:appinfo></xs:annotation></xs:element><xs:element name=\"total\"", rule("total is 1", "")),
    );
    assert!(compiled(&reference).remarks.iter().any(|remark| remark.message.starts_with("no rule can stand here")));
}

#[test]
fn rules_of_a_type_hold_for_what_is_derived_from_it() {
    let schema = format!(
        r#"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:d="urn:mervik:directives" xmlns="urn:h" targetNamespace="urn:h" elementFormDefault="qualified">
<xs:element name="manifest" type="Derived"/><xs:complexType name="Base"><xs:annotation><xs:appinfo>{}</xs:appinfo></xs:annotation><xs:sequence><xs:element name="a" type="xs:int"/></xs:sequence></xs:complexType>
<xs:complexType name="Derived"><xs:complexContent><xs:extension base="Base"><xs:sequence><xs:element name="b" type="xs:int"/></xs:sequence></xs:extension></xs:complexContent></xs:complexType></xs:schema>"#,
        rule("a is at least 2", "")
    );
    assert_eq!(said(&schema, "><a>2</a><b>1</b>"), Vec::<String>::new());
    assert_eq!(said(&schema, "><a>1</a><b>1</b>").len(), 1);
}

#[test]
fn unchanged_rules_cancel_and_changed_ones_are_shown_to_break() {
    let version = |rule_text: &str| {
        let rules = if rule_text.is_empty() { String::new() } else { rule(rule_text, "") };
        compiled(&manifest(&rules, "", "")).schema
    };
    for (old, new, holds) in [
        ("departure is after arrival", "departure is after  (arrival)", Some(true)),
        ("", "departure is after arrival", Some(false)),
        ("departure is after arrival", "", Some(true)),
        ("total is at least 5", "total is at least 6", Some(false)),
        ("total is at least 5", "total is at least 4.5", Some(true)),
        ("departure is at least 2 hours after arrival", "departure is at least 1 hour after arrival", Some(true)),
        (
            "departure is at least 15 minutes after arrival",
            "departure is at least 20 minutes after arrival",
            Some(false),
        ),
        ("", "number begins with \"HM\"", Some(false)),
        ("", "if sealed then total is present", Some(false)),
        // Nothing that is tried breaks it, and that is not known.
        ("", "count of item is at most 50", None),
    ] {
        let (old, new) = (version(old), version(new));
        let found = compare(&old, &new, Role::Old, None);
        let verdict = match (found.breaks.is_empty(), found.undecided.is_empty()) {
            (false, _) => Some(false),
            (true, true) => Some(true),
            (true, false) => None,
        };
        assert_eq!(verdict, holds, "{found:#?}");
        for one in &found.breaks {
            let refused = |schema| !check(schema, one.witness.as_bytes(), &Options::default()).unwrap().is_empty();
            assert!(!refused(&old) && refused(&new), "{one:#?}");
        }
    }
}

#[test]
fn elements_and_attributes_have_messages_and_titles_of_their_own() {
    let schema = r#"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:d="urn:mervik:directives" xmlns="urn:h" targetNamespace="urn:h" elementFormDefault="qualified">
<xs:element name="manifest"><xs:complexType><xs:sequence><xs:element name="berth" type="Berth"><xs:annotation><xs:appinfo>
  <d:title>Berth</d:title><d:messages for="maxLength" text="{ $title } { $value } is longer than { $limit }."/></xs:appinfo></xs:annotation></xs:element>
  <xs:element name="mass" type="xs:decimal"><xs:annotation><xs:appinfo><d:messages for="any" text="No mass at { $place }."/></xs:appinfo></xs:annotation></xs:element></xs:sequence>
  <xs:attribute name="no" type="xs:int"><xs:annotation><xs:appinfo><d:title>Number</d:title><d:messages for="type" text="{ $title }: no number"/></xs:appinfo></xs:annotation></xs:attribute>
</xs:complexType></xs:element><xs:simpleType name="Berth"><xs:restriction base="xs:token"><xs:maxLength value="3"/></xs:restriction></xs:simpleType></xs:schema>"#;
    let told = said(schema, " no='x'><berth>N1234</berth><mass>heavy</mass>");
    assert_eq!(
        told,
        [
            "error cvc-datatype-valid.1.2.1 /manifest/@no: Number: no number []",
            "error cvc-maxLength-valid /manifest/berth: Berth N1234 is longer than 3. []",
            "error cvc-datatype-valid.1.2.1 /manifest/mass: No mass at /manifest/mass. []",
        ]
    );
    let german = "berth = Liegeplatz\n    .maxLength = { $title } zu lang.\nno = Nummer\n";
    let (catalogue, faults) =
        mervik_messages::Catalogue::parse(mervik_messages::Language::parse("de").unwrap(), "s.de.ftl".into(), german);
    assert!(faults.is_empty());
    let speaker =
        mervik_messages::Speaker::new(mervik_messages::Languages::parse("de").unwrap(), vec![vec![catalogue]]);
    let schema = compiled(schema).schema.spoken_by(speaker);
    let text = "<manifest xmlns=\"urn:h\" no='x'><berth>N1234</berth><mass>1</mass></manifest>";
    let found = check(&schema, text.as_bytes(), &Options::default()).unwrap();
    let told: Vec<(Option<&str>, &str)> =
        found.iter().map(|found| (found.finding.title.as_deref(), found.finding.message.as_str())).collect();
    assert_eq!(told, [(Some("Nummer"), "Nummer: no number"), (Some("Liegeplatz"), "Liegeplatz zu lang.")]);
}

/// A stay with sets of rules and rules about it.
fn stay(sets: &str, rules: &str) -> String {
    format!(
        r#"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:d="urn:mervik:directives" xmlns="urn:h" targetNamespace="urn:h">
<xs:annotation><xs:appinfo>{sets}</xs:appinfo></xs:annotation>
<xs:element name="manifest"><xs:annotation><xs:appinfo>{rules}</xs:appinfo></xs:annotation><xs:complexType>
<xs:attribute name="starts" type="xs:dateTime"/><xs:attribute name="ends" type="xs:dateTime"/><xs:attribute name="ship" type="xs:token"/></xs:complexType></xs:element></xs:schema>"#
    )
}

const WINDOW: &str = r#"<d:sets name="window" parameters="from until most">
<d:rules id="ends-later" that="until is after from" message="{ $until } is no later than { $from }."/>
<d:rules id="not-too-long" when="until is present" that="until is at most most after from" severity="warning" message="More than { $most }."/></d:sets>"#;

const USED: &str =
    r#"<d:rules use="window" id="stay"><d:with from="starts" until="`@ends`" most="12 hours"/></d:rules>"#;

#[test]
fn a_set_of_rules_is_used_with_arguments() {
    let schema = stay(WINDOW, USED);
    let day = "2026-05-07T";
    assert_eq!(said(&schema, &format!(" starts='{day}05:00:00Z' ends='{day}17:00:00Z'>")), Vec::<String>::new());
    assert_eq!(
        said(&schema, &format!(" starts='{day}05:00:00Z' ends='{day}05:00:00Z'>")),
        [
            "error stay-ends-later /manifest: 2026-05-07T05:00:00Z is no later than 2026-05-07T05:00:00Z. [`@ends` \"2026-05-07T05:00:00Z\" /manifest/@ends, starts \"2026-05-07T05:00:00Z\" /manifest/@starts]"
        ]
    );
    let late = said(&schema, &format!(" starts='{day}05:00:00Z' ends='{day}17:00:01Z'>"));
    assert!(
        late.len() == 1 && late[0].starts_with("warning stay-not-too-long /manifest: More than 12 hours."),
        "{late:?}"
    );
}

#[test]
fn a_set_that_does_not_fit_is_an_error_of_the_schema() {
    let with = |with: &str| format!("<d:rules use=\"window\"><d:with {with}/></d:rules>");
    let rule = "<d:rules id='r' that='here is present'/>";
    for (sets, rules, wanted) in [
        (WINDOW, "<d:rules use='windows'/>", "there is no set `windows`"),
        (WINDOW, "<d:rules use='window'/>", "nothing stands for `from`, `until`, `most`"),
        (WINDOW, &with("from='starts' until='ends' most='1 hour' form='x'"), "the set has no parameter `form`"),
        (
            WINDOW,
            &with("from='starts' until='ship' most='1 hour'"),
            "the rule `ends-later` of the set does not fit here",
        ),
        (WINDOW, &with("from='starts' until='starts +' most='1 hour'"), "`until`: expected"),
        (WINDOW, &format!("{USED}{USED}"), "the rule `stay-ends-later` is stated twice here"),
        (WINDOW, "<d:rules use='window' that='ends is present'/>", "a use of a set has no `that`"),
        (&format!("{WINDOW}{WINDOW}"), USED, "there is another set `window`"),
        ("<d:sets name='s'/>", "", "a set must have a `name` and rules"),
        (&format!("<d:sets>{rule}</d:sets>"), "", "a set must have a `name` and rules"),
        (&format!("<d:sets name='s' parameter='a'>{rule}</d:sets>"), "", "a set has no `parameter`"),
        (&format!("<d:sets name='s' parameters='a a'>{rule}</d:sets>"), "", "`parameters` must be names"),
        (&format!("<d:sets name='s'>{rule}{rule}</d:sets>"), "", "the rule `r` is stated twice here"),
        ("<d:sets name='s'><d:rules use='s'/></d:sets>", "", "a set cannot use another one"),
        ("<d:sets name='s'><d:rules id='r' that='a is'/></d:sets>", "", "expected"),
        ("<d:sets name='s'><d:title>x</d:title></d:sets>", "", "a set has no `title`"),
    ] {
        let remarks = compiled(&stay(sets, rules)).remarks;
        assert!(remarks.iter().any(|remark| remark.message.contains(wanted)), "{sets} {rules}: {remarks:#?}");
    }
    assert!(!compiled(&stay(WINDOW, "")).is_broken());
}

/// Holds of a ship: what rules read lies between what nobody reads, and rules stand where only `xsi:type` or a wildcard leads.
const HOLDS: &str = r#"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:d="urn:mervik:directives" xmlns="urn:h" targetNamespace="urn:h" elementFormDefault="qualified">
<xs:element name="holds"><xs:annotation><xs:appinfo><d:rules id="most" that="sum of hold.mass is at most limit"/></xs:appinfo></xs:annotation>
  <xs:complexType><xs:sequence>
    <xs:element name="hold" type="Hold" maxOccurs="unbounded"/><xs:element name="limit" type="xs:decimal"/><xs:element name="papers" type="Papers" minOccurs="0"/>
  </xs:sequence></xs:complexType></xs:element>
<xs:complexType name="Hold"><xs:sequence>
  <xs:element name="mass" type="xs:decimal"/><xs:element name="note" type="Note" minOccurs="0"/></xs:sequence></xs:complexType>
<xs:complexType name="Note"><xs:sequence><xs:element name="mass" type="xs:decimal" minOccurs="0"/><xs:element name="mark" type="Mark" minOccurs="0" maxOccurs="9"/></xs:sequence></xs:complexType>
<xs:complexType name="Mark"><xs:sequence><xs:element name="from" type="xs:int"/></xs:sequence></xs:complexType>
<xs:complexType name="Span"><xs:annotation><xs:appinfo><d:rules id="span" that="until is more than from"/></xs:appinfo></xs:annotation>
  <xs:complexContent><xs:extension base="Mark"><xs:sequence><xs:element name="until" type="xs:int"/></xs:sequence></xs:extension></xs:complexContent></xs:complexType>
<xs:complexType name="Papers"><xs:sequence><xs:any processContents="lax" maxOccurs="unbounded"/></xs:sequence></xs:complexType>
<xs:element name="seal"><xs:annotation><xs:appinfo><d:rules id="seal" that="no is not again"/></xs:appinfo></xs:annotation>
  <xs:complexType><xs:sequence><xs:element name="no" type="xs:int"/><xs:element name="again" type="xs:int"/></xs:sequence></xs:complexType></xs:element>
</xs:schema>"#;

#[test]
fn what_nobody_reads_is_passed_over_and_nothing_else() {
    let compiled = compiled(HOLDS);
    assert!(!compiled.is_broken(), "{:#?}", compiled.remarks);
    let said = |content: &str| -> Vec<String> {
        let text =
            format!("<holds xmlns=\"urn:h\" xmlns:xsi=\"http://www.w3.org/2001/XMLSchema-instance\">{content}</holds>");
        let found = check(&compiled.schema, text.as_bytes(), &Options::default()).unwrap();
        found.into_iter().map(|found| format!("{} {}", found.finding.rule, found.finding.at)).collect()
    };
    let hold = |mass: u8, note: &str| format!("<hold><mass>{mass}</mass>{note}</hold>");
    let marks = |marks: &[(u8, u8)]| {
        let mark = |(from, until): &(u8, u8)| {
            format!("<mark xsi:type=\"Span\"><from>{from}</from><until>{until}</until></mark>")
        };
        format!("<note><mass>90</mass><mark><from>7</from></mark>{}</note>", marks.iter().map(mark).collect::<String>())
    };
    let seal = |no: u8, again: u8| {
        format!("<papers><x xmlns=''><y/></x><seal><no>{no}</no><again>{again}</again></seal></papers>")
    };
    for (content, told) in [
        // The mass of a note is none of a hold's.
        (format!("{}{}<limit>3</limit>", hold(1, &marks(&[(1, 2)])), hold(2, "")), &[][..]),
        (format!("{}{}<limit>3</limit>", hold(2, &marks(&[(1, 2)])), hold(2, "")), &["most /holds"]),
        (
            format!("{}{}<limit>9</limit>", hold(2, ""), hold(2, &marks(&[(1, 2), (2, 2), (3, 1)]))),
            &["span /holds/hold[2]/note/mark[3]", "span /holds/hold[2]/note/mark[4]"],
        ),
        (format!("{}<limit>1</limit>{}", hold(1, ""), seal(1, 2)), &[]),
        (format!("{}<limit>1</limit>{}", hold(1, ""), seal(2, 2)), &["seal /holds/papers/seal"]),
        (
            format!("{}{}<limit>1</limit>{}", hold(1, &marks(&[(2, 1)])), hold(1, ""), seal(2, 2)),
            &["most /holds", "span /holds/hold[1]/note/mark[2]", "seal /holds/papers/seal"],
        ),
    ] {
        assert_eq!(said(&content), told, "{content}");
    }
}
