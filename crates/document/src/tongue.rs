//! The languages that Mervik speaks itself, and its phrases in them.
//!
//! A phrase stands once, in all languages side by side, where it is said: [`phrases!`](crate::phrases) makes a method of each. That a
//! language lacks a phrase, or a phrase a part that is filled in, is an error when Mervik is built. Where a phrase is made of others,
//! what is put in stands in the nominative: `must be` + `an integer`.

use std::fmt::{self, Display};

/// A language that Mervik speaks.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Tongue {
    /// What is said where no other language is asked for.
    #[default]
    English,
    /// German.
    German,
    /// Spanish.
    Spanish,
    /// Japanese.
    Japanese,
}

/// Makes a trait with a method for each phrase, and gives it to [`Tongue`]: a phrase in English, German, Spanish and
/// Japanese, in this order, with the names of what is filled in.
#[macro_export]
macro_rules! phrases {
    (
        $(#[$about:meta])* $vis:vis trait $trait:ident;
        $( $name:ident ( $($part:ident),* ) : $en:literal, $de:literal, $es:literal, $ja:literal; )*
    ) => {
        $(#[$about])*
        #[allow(missing_docs, reason = "what a phrase says stands beside its name")]
        $vis trait $trait: Copy {
            $( fn $name(self $(, $part: impl ::std::fmt::Display)*) -> String; )*
        }

        impl $trait for $crate::tongue::Tongue {
            $(
                fn $name(self $(, $part: impl ::std::fmt::Display)*) -> String {
                    match self {
                        $crate::tongue::Tongue::English => format!($en, $($part = $part),*),
                        $crate::tongue::Tongue::German => format!($de, $($part = $part),*),
                        $crate::tongue::Tongue::Spanish => format!($es, $($part = $part),*),
                        $crate::tongue::Tongue::Japanese => format!($ja, $($part = $part),*),
                    }
                }
            )*
        }
    };
}

phrases! {
    /// Phrases that findings of all kinds share.
    pub trait Common;
    must_be(expected, found): "must be {expected}, found {found}", "muss {expected} sein, gefunden: {found}",
        "debe ser {expected}; se encontró {found}", "{expected}でなければなりません（実際は{found}）";
    must_have(expected, found): "must have {expected}, found {found}", "muss {expected} haben, gefunden: {found}",
        "debe tener {expected}; se encontró {found}", "{expected}が必要です（実際は{found}）";
    must_match(pattern, found): "must match `{pattern}`, found {found}", "muss auf `{pattern}` passen, gefunden: {found}",
        "debe coincidir con `{pattern}`; se encontró {found}", "`{pattern}`に一致しなければなりません（実際は{found}）";
    expected_found(expected, found): "expected {expected}, found {found}", "erwartet: {expected}; gefunden: {found}",
        "se esperaba {expected}; se encontró {found}", "{expected}が必要です（実際は{found}）";
    expected(expected): "expected {expected}", "erwartet: {expected}", "se esperaba {expected}", "{expected}が必要です";
    must_keep(rule): "must keep the rule `{rule}`", "muss die Regel `{rule}` einhalten", "debe cumplir la regla `{rule}`",
        "規則`{rule}`を満たさなければなりません";
    no_answer(rule, why): "the rule `{rule}` has no answer: {why}", "die Regel `{rule}` hat keine Antwort: {why}",
        "la regla `{rule}` no tiene respuesta: {why}", "規則`{rule}`は判定できません: {why}";
    field_is(path, value): "`{path}` is {value}", "`{path}` ist {value}", "`{path}` es {value}", "`{path}`は{value}";
    is_near(word): "{word} is near", "{word} ist ähnlich", "{word} se parece", "{word}に似ています";
    at_most(limit): "at most {limit}", "höchstens {limit}", "como máximo {limit}", "{limit}以下";
    at_least(limit): "at least {limit}", "mindestens {limit}", "como mínimo {limit}", "{limit}以上";
    less_than(limit): "less than {limit}", "kleiner als {limit}", "menor que {limit}", "{limit}未満";
    more_than(limit): "more than {limit}", "größer als {limit}", "mayor que {limit}", "{limit}より大きい値";
    multiple_of(by): "a multiple of {by}", "ein Vielfaches von {by}", "un múltiplo de {by}", "{by}の倍数";
    one_of(values): "one of {values}", "eines von {values}", "uno de {values}", "{values}のいずれか";
    items_that_differ(): "items that differ", "verschiedene Elemente", "elementos distintos", "互いに異なる要素";
    each_name_once(): "each name once", "jeder Name einmal", "cada nombre una vez", "各名前は一度だけ";
    so_many_findings(count): "at most {count} findings in one document", "höchstens {count} Befunde in einem Dokument",
        "como máximo {count} hallazgos en un documento", "一つの文書につき指摘は{count}件以下";
    more(): "more", "mehr", "más", "それ以上";
    no_such_day(): "there is no such day", "diesen Tag gibt es nicht", "ese día no existe", "そのような日はありません";
    either_truth(): "`true` or `false`", "`true` oder `false`", "`true` o `false`", "`true`または`false`";
    again(value): "{value} again", "{value} noch einmal", "{value} otra vez", "もう一度{value}";
    text_in_utf8(): "text in UTF-8", "Text in UTF-8", "texto en UTF-8", "UTF-8の文字列";
    other_bytes(): "other bytes", "andere Bytes", "otros bytes", "別のバイト列";
    the_byte(byte): "the byte 0x{byte}", "das Byte 0x{byte}", "el byte 0x{byte}", "バイト0x{byte}";
    latin_or_cut(): "the text may be in Latin-1 or cut off", "der Text ist vielleicht in Latin-1 oder abgeschnitten", "el texto puede estar en Latin-1 o cortado", "テキストはLatin-1か、途中で切れているかもしれません";
    nothing(): "nothing", "nichts", "nada", "なし";
    for_example(example): "for example `{example}`", "zum Beispiel `{example}`", "por ejemplo `{example}`", "例: `{example}`";
    not_shown(kind): "{kind} (not shown)", "{kind} (nicht gezeigt)", "{kind} (no se muestra)", "{kind}（表示しません）";
    the_whole(): "the whole", "das Ganze", "el conjunto", "全体";
    null(): "null", "null", "null", "null";
    a_boolean(): "a boolean", "ein Wahrheitswert", "un booleano", "真偽値";
    a_number(): "a number", "eine Zahl", "un número", "数値";
    an_integer(): "an integer", "eine ganze Zahl", "un entero", "整数";
    a_string(): "a string", "eine Zeichenkette", "una cadena", "文字列";
    an_array(): "an array", "ein Array", "un array", "配列";
    an_object(): "an object", "ein Objekt", "un objeto", "オブジェクト";
    a_value(): "a value", "ein Wert", "un valor", "値";
    array_of(items): "an array of {items}", "ein Array mit {items}", "un array de {items}", "{items}の配列";
    object_of(members): "an object of {members}", "ein Objekt mit {members}", "un objeto de {members}", "{members}のオブジェクト";
}

/// What is counted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "a noun needs no explanation")]
pub enum Noun {
    Item,
    Member,
    Property,
    Character,
    Digit,
    Byte,
    Line,
    Level,
    Document,
    Record,
    MoreRecord,
    Finding,
    Message,
}

impl Noun {
    /// For one and for several, in the order of the languages; Japanese has one form, around the number.
    fn forms(self) -> [(&'static str, &'static str); 4] {
        match self {
            Noun::Item => [("item", "items"), ("Element", "Elemente"), ("elemento", "elementos"), ("要素", "個")],
            Noun::Member => [("member", "members"), ("Member", "Members"), ("miembro", "miembros"), ("メンバー", "個")],
            Noun::Property => [
                ("property", "properties"),
                ("Eigenschaft", "Eigenschaften"),
                ("propiedad", "propiedades"),
                ("プロパティ", "個"),
            ],
            Noun::Character => {
                [("character", "characters"), ("Zeichen", "Zeichen"), ("carácter", "caracteres"), ("", "文字")]
            }
            Noun::Digit => [("digit", "digits"), ("Ziffer", "Ziffern"), ("dígito", "dígitos"), ("", "桁")],
            Noun::Byte => [("byte", "bytes"), ("Byte", "Bytes"), ("byte", "bytes"), ("", "バイト")],
            Noun::Line => [("line", "lines"), ("Zeile", "Zeilen"), ("línea", "líneas"), ("", "行")],
            Noun::Level => [("level", "levels"), ("Ebene", "Ebenen"), ("nivel", "niveles"), ("", "階層")],
            Noun::Document => {
                [("document", "documents"), ("Dokument", "Dokumente"), ("documento", "documentos"), ("文書", "件")]
            }
            Noun::Record => {
                [("record", "records"), ("Datensatz", "Datensätze"), ("registro", "registros"), ("レコード", "件")]
            }
            Noun::MoreRecord => [
                ("more record", "more records"),
                ("weiterer Datensatz", "weitere Datensätze"),
                ("registro más", "registros más"),
                ("他のレコード", "件"),
            ],
            Noun::Message => {
                [("message", "messages"), ("Meldung", "Meldungen"), ("mensaje", "mensajes"), ("メッセージ", "件")]
            }
            Noun::Finding => {
                [("finding", "findings"), ("Befund", "Befunde"), ("hallazgo", "hallazgos"), ("指摘", "件")]
            }
        }
    }
}

impl Tongue {
    /// All of them, with their tags (BCP 47).
    pub const ALL: [(Tongue, &'static str); 4] =
        [(Tongue::English, "en"), (Tongue::German, "de"), (Tongue::Spanish, "es"), (Tongue::Japanese, "ja")];

    /// The language of a tag without regions.
    pub fn find(tag: &str) -> Option<Tongue> {
        Tongue::ALL.iter().find(|(_, known)| *known == tag).map(|(tongue, _)| *tongue)
    }

    /// Its tag.
    pub fn tag(self) -> &'static str {
        Tongue::ALL.iter().find(|(tongue, _)| *tongue == self).map_or("en", |(_, tag)| tag)
    }

    /// `1 item`, `2 items`.
    pub fn counted(self, count: u64, noun: Noun) -> String {
        let [en, de, es, ja] = noun.forms();
        let (one, several) = match self {
            Tongue::English => en,
            Tongue::German => de,
            Tongue::Spanish => es,
            Tongue::Japanese => return format!("{}{count}{}", ja.0, ja.1),
        };
        format!("{count} {}", if count == 1 { one } else { several })
    }

    /// `a`, `a or b`, `a, b or c`.
    pub fn either(self, all: impl IntoIterator<Item = String>) -> String {
        self.list(all.into_iter().collect(), Join::Or, None)
    }

    /// `a`, `a and b`, `a, b and c`.
    pub fn both(self, all: impl IntoIterator<Item = String>) -> String {
        self.list(all.into_iter().collect(), Join::And, None)
    }

    /// A list of which no more than so many are named, and it is said how many more there are: `a, b or 7 more`.
    pub fn some(self, mut all: Vec<String>, join: Join, at_most: usize) -> String {
        let more = all.len().saturating_sub(at_most);
        all.truncate(at_most);
        self.list(all, join, (more > 0).then_some(more))
    }

    fn list(self, mut all: Vec<String>, join: Join, more: Option<usize>) -> String {
        if let Some(more) = more {
            all.push(match self {
                Tongue::English => format!("{more} more"),
                Tongue::German => format!("{more} weitere"),
                Tongue::Spanish => format!("{more} más"),
                Tongue::Japanese => format!("他{more}件"),
            });
        }
        let comma = if self == Tongue::Japanese { "、" } else { ", " };
        let word = match (self, join) {
            (Tongue::English, Join::Or) => " or ",
            (Tongue::English, Join::And) => " and ",
            (Tongue::English, Join::Nor) => " nor ",
            (Tongue::German, Join::Or) => " oder ",
            (Tongue::German, Join::And) => " und ",
            (Tongue::German, Join::Nor) => " noch ",
            (Tongue::Spanish, Join::Or) => " o ",
            (Tongue::Spanish, Join::And) => " y ",
            (Tongue::Spanish, Join::Nor) => " ni ",
            (Tongue::Japanese, Join::Or) => "または",
            (Tongue::Japanese, Join::And | Join::Nor) => "と",
        };
        match all.split_last() {
            None => self.nothing(),
            Some((last, [])) => last.clone(),
            Some((last, others)) => format!("{}{word}{last}", others.join(comma)),
        }
    }
}

/// A phrase in every language at once: for readers, which do not know who will be told. It costs all of them, so it is for what ends
/// the reading.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Phrase(Box<[String; 4]>);

impl Phrase {
    /// What each language says.
    pub fn of(say: impl Fn(Tongue) -> String) -> Phrase {
        Phrase(Tongue::ALL.map(|(tongue, _)| say(tongue)).into())
    }

    /// What one of them says.
    pub fn say(&self, tongue: Tongue) -> &str {
        let at = Tongue::ALL.iter().position(|(known, _)| *known == tongue);
        at.and_then(|at| self.0.get(at)).map_or("", String::as_str)
    }
}

impl From<String> for Phrase {
    /// What is the same in all languages: a name, a sign, a part of the text.
    fn from(text: String) -> Phrase {
        Phrase([text.clone(), text.clone(), text.clone(), text].into())
    }
}

impl From<&str> for Phrase {
    fn from(text: &str) -> Phrase {
        text.to_owned().into()
    }
}

impl Display for Phrase {
    /// In English.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.say(Tongue::English))
    }
}

/// How the last two of a list are joined.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Join {
    /// One of them.
    Or,
    /// All of them.
    And,
    /// None of them.
    Nor,
}

impl Display for Tongue {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.tag())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_language_counts_and_lists_in_its_own_way() {
        let all = || ["a", "b", "c"].map(str::to_owned);
        let table = [
            (Tongue::English, "1 item", "3 items", "a, b or c", "a and 2 more", "must be an integer, found null"),
            (
                Tongue::German,
                "1 Element",
                "3 Elemente",
                "a, b oder c",
                "a und 2 weitere",
                "muss eine ganze Zahl sein, gefunden: null",
            ),
            (
                Tongue::Spanish,
                "1 elemento",
                "3 elementos",
                "a, b o c",
                "a y 2 más",
                "debe ser un entero; se encontró null",
            ),
            (
                Tongue::Japanese,
                "要素1個",
                "要素3個",
                "a、bまたはc",
                "aと他2件",
                "整数でなければなりません（実際はnull）",
            ),
        ];
        for (tongue, one, three, either, some, message) in table {
            assert_eq!(tongue.counted(1, Noun::Item), one);
            assert_eq!(tongue.counted(3, Noun::Item), three);
            assert_eq!(tongue.either(all()), either);
            assert_eq!(tongue.some(all().to_vec(), Join::And, 1), some);
            assert_eq!(tongue.must_be(tongue.an_integer(), tongue.null()), message);
            assert_eq!(Tongue::find(tongue.tag()), Some(tongue));
        }
        assert_eq!(Tongue::English.either([]), "nothing");
        assert_eq!(Tongue::find("fr"), None);
    }
}
