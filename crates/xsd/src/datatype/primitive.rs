//! The primitive types and the types that are built from them (Part 2, section 3).

use std::fmt;

/// A primitive type (Part 2, section 3.2).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Primitive {
    /// Any characters.
    String,
    /// True or false.
    Boolean,
    /// Decimal numbers of any size.
    Decimal,
    /// IEEE numbers of 32 bits.
    Float,
    /// IEEE numbers of 64 bits.
    Double,
    /// Spans of time.
    Duration,
    /// Points in time.
    DateTime,
    /// Times of day.
    Time,
    /// Days.
    Date,
    /// Months of a year.
    GYearMonth,
    /// Years.
    GYear,
    /// Days that recur each year.
    GMonthDay,
    /// Days that recur each month.
    GDay,
    /// Months that recur each year.
    GMonth,
    /// Bytes in hexadecimal digits.
    HexBinary,
    /// Bytes in base 64.
    Base64Binary,
    /// References to resources.
    AnyUri,
    /// Names with a namespace.
    QName,
    /// Names of notations.
    Notation,
}

/// A constraining facet (Part 2, section 4.3).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(crate) enum Facet {
    /// Exactly so many units.
    Length,
    /// At least so many.
    MinLength,
    /// At most so many.
    MaxLength,
    /// A form.
    Pattern,
    /// A list of values.
    Enumeration,
    /// What becomes of white space.
    WhiteSpace,
    /// The largest value.
    MaxInclusive,
    /// What all values are below.
    MaxExclusive,
    /// What all values are above.
    MinExclusive,
    /// The smallest value.
    MinInclusive,
    /// How many digits.
    TotalDigits,
    /// How many of them after the point.
    FractionDigits,
}

impl Facet {
    /// All facets.
    pub(crate) const ALL: [Facet; 12] = [
        Facet::Length,
        Facet::MinLength,
        Facet::MaxLength,
        Facet::Pattern,
        Facet::Enumeration,
        Facet::WhiteSpace,
        Facet::MaxInclusive,
        Facet::MaxExclusive,
        Facet::MinExclusive,
        Facet::MinInclusive,
        Facet::TotalDigits,
        Facet::FractionDigits,
    ];

    /// The name of its element.
    pub(crate) fn name(self) -> &'static str {
        match self {
            Facet::Length => "length",
            Facet::MinLength => "minLength",
            Facet::MaxLength => "maxLength",
            Facet::Pattern => "pattern",
            Facet::Enumeration => "enumeration",
            Facet::WhiteSpace => "whiteSpace",
            Facet::MaxInclusive => "maxInclusive",
            Facet::MaxExclusive => "maxExclusive",
            Facet::MinExclusive => "minExclusive",
            Facet::MinInclusive => "minInclusive",
            Facet::TotalDigits => "totalDigits",
            Facet::FractionDigits => "fractionDigits",
        }
    }

    /// The facet whose element has a name.
    pub(crate) fn named(name: &str) -> Option<Facet> {
        Facet::ALL.into_iter().find(|facet| facet.name() == name)
    }

    /// The validation rule that it brings (Part 2, section 4.3).
    pub(crate) fn rule(self) -> &'static str {
        match self {
            Facet::Length => "cvc-length-valid",
            Facet::MinLength => "cvc-minLength-valid",
            Facet::MaxLength => "cvc-maxLength-valid",
            Facet::Pattern => "cvc-pattern-valid",
            Facet::Enumeration => "cvc-enumeration-valid",
            // White space is made to fit; nothing fails for it.
            Facet::WhiteSpace => "cvc-datatype-valid",
            Facet::MaxInclusive => "cvc-maxInclusive-valid",
            Facet::MaxExclusive => "cvc-maxExclusive-valid",
            Facet::MinExclusive => "cvc-minExclusive-valid",
            Facet::MinInclusive => "cvc-minInclusive-valid",
            Facet::TotalDigits => "cvc-totalDigits-valid",
            Facet::FractionDigits => "cvc-fractionDigits-valid",
        }
    }

    pub(crate) fn is_bound(self) -> bool {
        matches!(self, Facet::MaxInclusive | Facet::MaxExclusive | Facet::MinExclusive | Facet::MinInclusive)
    }
}

impl fmt::Display for Facet {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

impl Primitive {
    /// All primitive types.
    pub(crate) const ALL: [Primitive; 19] = [
        Primitive::String,
        Primitive::Boolean,
        Primitive::Decimal,
        Primitive::Float,
        Primitive::Double,
        Primitive::Duration,
        Primitive::DateTime,
        Primitive::Time,
        Primitive::Date,
        Primitive::GYearMonth,
        Primitive::GYear,
        Primitive::GMonthDay,
        Primitive::GDay,
        Primitive::GMonth,
        Primitive::HexBinary,
        Primitive::Base64Binary,
        Primitive::AnyUri,
        Primitive::QName,
        Primitive::Notation,
    ];

    /// The name of the type.
    pub(crate) fn name(self) -> &'static str {
        match self {
            Primitive::String => "string",
            Primitive::Boolean => "boolean",
            Primitive::Decimal => "decimal",
            Primitive::Float => "float",
            Primitive::Double => "double",
            Primitive::Duration => "duration",
            Primitive::DateTime => "dateTime",
            Primitive::Time => "time",
            Primitive::Date => "date",
            Primitive::GYearMonth => "gYearMonth",
            Primitive::GYear => "gYear",
            Primitive::GMonthDay => "gMonthDay",
            Primitive::GDay => "gDay",
            Primitive::GMonth => "gMonth",
            Primitive::HexBinary => "hexBinary",
            Primitive::Base64Binary => "base64Binary",
            Primitive::AnyUri => "anyURI",
            Primitive::QName => "QName",
            Primitive::Notation => "NOTATION",
        }
    }

    /// Whether values are points in time.
    pub(crate) fn is_moment(self) -> bool {
        use Primitive::*;
        matches!(self, DateTime | Time | Date | GYearMonth | GYear | GMonthDay | GDay | GMonth)
    }

    /// Whether a facet may constrain a type of this kind (Part 2, section 4.1.5).
    pub(crate) fn takes(self, facet: Facet) -> bool {
        use Primitive::*;
        match facet {
            Facet::Pattern | Facet::WhiteSpace => true,
            Facet::Enumeration => self != Boolean,
            Facet::Length | Facet::MinLength | Facet::MaxLength => {
                matches!(self, String | HexBinary | Base64Binary | AnyUri | QName | Notation)
            }
            Facet::TotalDigits | Facet::FractionDigits => self == Decimal,
            _ => self.is_moment() || matches!(self, Decimal | Float | Double | Duration),
        }
    }
}

/// What must hold of the lexical form beyond the primitive type.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Form {
    #[default]
    Any,
    Language,
    Name,
    NcName,
    NmToken,
    Integer,
}

/// What becomes of white space (Part 2, section 4.3.6).
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum WhiteSpace {
    /// It stays.
    Preserve,
    /// Each is a space.
    Replace,
    /// Runs of it are one space, and none are at the ends.
    Collapse,
}

impl WhiteSpace {
    /// The value of its facet.
    pub(crate) fn name(self) -> &'static str {
        match self {
            WhiteSpace::Preserve => "preserve",
            WhiteSpace::Replace => "replace",
            WhiteSpace::Collapse => "collapse",
        }
    }
}

/// A type that every schema has, beside the primitive ones (Part 2, section 3.3).
pub(crate) struct Derived {
    pub(crate) name: &'static str,
    pub(crate) base: &'static str,
    pub(crate) form: Form,
    pub(crate) white_space: Option<WhiteSpace>,
    /// The smallest and the largest value.
    pub(crate) bounds: (Option<&'static str>, Option<&'static str>),
    /// Whether it is a list of its base.
    pub(crate) list: bool,
}

const fn derived(name: &'static str, base: &'static str, form: Form) -> Derived {
    Derived { name, base, form, white_space: None, bounds: (None, None), list: false }
}

const fn bounded(
    name: &'static str,
    base: &'static str,
    least: Option<&'static str>,
    most: Option<&'static str>,
) -> Derived {
    Derived { name, base, form: Form::Any, white_space: None, bounds: (least, most), list: false }
}

const fn list(name: &'static str, base: &'static str) -> Derived {
    Derived { name, base, form: Form::Any, white_space: Some(WhiteSpace::Collapse), bounds: (None, None), list: true }
}

/// The derived types, each after its base.
pub(crate) const DERIVED: [Derived; 25] = [
    Derived { white_space: Some(WhiteSpace::Replace), ..derived("normalizedString", "string", Form::Any) },
    Derived { white_space: Some(WhiteSpace::Collapse), ..derived("token", "normalizedString", Form::Any) },
    derived("language", "token", Form::Language),
    derived("NMTOKEN", "token", Form::NmToken),
    list("NMTOKENS", "NMTOKEN"),
    derived("Name", "token", Form::Name),
    derived("NCName", "Name", Form::NcName),
    derived("ID", "NCName", Form::NcName),
    derived("IDREF", "NCName", Form::NcName),
    list("IDREFS", "IDREF"),
    derived("ENTITY", "NCName", Form::NcName),
    list("ENTITIES", "ENTITY"),
    derived("integer", "decimal", Form::Integer),
    bounded("nonPositiveInteger", "integer", None, Some("0")),
    bounded("negativeInteger", "nonPositiveInteger", None, Some("-1")),
    bounded("long", "integer", Some("-9223372036854775808"), Some("9223372036854775807")),
    bounded("int", "long", Some("-2147483648"), Some("2147483647")),
    bounded("short", "int", Some("-32768"), Some("32767")),
    bounded("byte", "short", Some("-128"), Some("127")),
    bounded("nonNegativeInteger", "integer", Some("0"), None),
    bounded("unsignedLong", "nonNegativeInteger", Some("0"), Some("18446744073709551615")),
    bounded("unsignedInt", "unsignedLong", Some("0"), Some("4294967295")),
    bounded("unsignedShort", "unsignedInt", Some("0"), Some("65535")),
    bounded("unsignedByte", "unsignedShort", Some("0"), Some("255")),
    bounded("positiveInteger", "nonNegativeInteger", Some("1"), None),
];
