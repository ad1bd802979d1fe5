//! Keywords by themselves: unknown ones, and those that have no effect where they stand.

use super::{Raw, Sub, Vetter, rules};
use crate::dialect::Dialect;
use crate::format::Format;
use crate::keyword::{self, KEYWORDS, Keyword};
use crate::schema::Kinds;
use mervik_document::{Kind, Member, edit, near, shown};

impl Vetter<'_> {
    pub(super) fn keywords(&mut self, sub: Sub<'_>) {
        let alone = sub.is_bare_reference();
        for member in sub.value.members() {
            let name = member.name.text();
            match keyword::find(name, sub.language) {
                Some(keyword) if alone => self.beside_reference(keyword, member),
                Some(keyword) => {
                    self.idle(sub, keyword, member);
                    self.lone(sub, member);
                    self.says_nothing(sub, member);
                }
                None => self.unknown(sub, member),
            }
        }
        self.weaker_bound(sub, "minimum", "exclusiveMinimum", |strict, plain| strict >= plain);
        self.weaker_bound(sub, "maximum", "exclusiveMaximum", |strict, plain| strict <= plain);
    }

    fn beside_reference(&mut self, keyword: &Keyword, member: Member<'_>) {
        let harmless = ["$ref", "definitions", "$schema", "$id", "id", "x-mervik"].contains(&keyword.name);
        if !harmless && !keyword.is_note() {
            let message = format!("`{}` is not read, since `$ref` stands beside it", keyword.name);
            let remark = Raw::new(&rules::IGNORED_SIBLING, member.name.id(), message);
            self.say(remark.hint("`\"allOf\": [{ \"$ref\": … }]` lets both count"));
        }
    }

    fn unknown(&mut self, sub: Sub<'_>, member: Member<'_>) {
        let (name, node) = (member.name.text(), member.name.id());
        if name.starts_with("x-") {
            return;
        }
        if let Some(foreign) = keyword::find_any(name) {
            if !foreign.is_note() && !name.starts_with("$comment") {
                let dialect = sub.language.dialect.name();
                let message = format!("`{name}` is no keyword of this dialect, {dialect}");
                let remark = Raw::new(&rules::FOREIGN_KEYWORD, node, message);
                self.say(remark.hint(format!("it is one {}", foreign.dialects())));
            }
            return;
        }
        let known = KEYWORDS.iter().filter(|keyword| keyword::find(keyword.name, sub.language).is_some());
        // A name of one's own is more likely than a slip, where the value would not even fit.
        let fitting = known.filter(|keyword| keyword.takes().meets(Kinds::of(member.value.kind())));
        let meant = near::slip_of(name, fitting.map(|keyword| keyword.name));
        let Some(meant) = meant else {
            let message = format!("`{name}` is no keyword: it is passed over");
            self.say(Raw::new(&rules::UNKNOWN_KEYWORD, node, message));
            return;
        };
        let message = format!("`{name}` is no keyword, so that the rule is never checked");
        let remark = Raw::new(&rules::MISSPELLED_KEYWORD, node, message);
        self.say(match sub.keyword(meant) {
            None => {
                let rename = edit::replace(self.document, node, edit::quoted(meant));
                remark.hint(format!("`{meant}` is near")).fix(format!("rename it to `{meant}`"), [Some(rename)])
            }
            Some(_) => remark.hint(format!("`{meant}` is near, and there as well")),
        });
    }

    /// Keywords that speak of kinds of values that `type` excludes.
    fn idle(&mut self, sub: Sub<'_>, keyword: &Keyword, member: Member<'_>) {
        let allowed = sub.node.types.reach();
        let speaks_of = keyword.speaks_of();
        // A value that the keyword cannot have is another matter.
        let fits = keyword.takes().meets(Kinds::of(member.value.kind()));
        if sub.node.type_rule.is_none() || allowed == Kinds::NONE || allowed.meets(speaks_of) || !fits {
            return;
        }
        // A format that is not known may speak of anything.
        if keyword.name == "format" && member.value.as_str().is_none_or(|name| Format::find(name).is_none()) {
            return;
        }
        let of = match speaks_of {
            Kinds::NUMBERS => "numbers",
            Kinds::STRINGS => "strings",
            Kinds::ARRAYS => "arrays",
            _ => "objects",
        };
        let types = sub.keyword("type").map(shown::value).unwrap_or_default();
        let message = format!("`{}` speaks of {of}, and has no effect beside `type` {types}", keyword.name);
        let remove = edit::remove_from(self.document, sub.value, member.name.id());
        let remark = Raw::new(&rules::IDLE_KEYWORD, member.name.id(), message);
        self.say(remark.fix(format!("remove `{}`", keyword.name), [remove]));
    }

    /// Keywords that work with another one, which is not there.
    fn lone(&mut self, sub: Sub<'_>, member: Member<'_>) {
        let name = member.name.text();
        let missing = |others: &[&str]| others.iter().all(|other| sub.keyword(other).is_none());
        let lacks = match name {
            // Alone, it has a say in what is evaluated.
            "if" if missing(&["then", "else"]) && !self.tracks => "then",
            "then" | "else" if missing(&["if"]) => "if",
            "minContains" | "maxContains" if missing(&["contains"]) => "contains",
            "contentSchema" if missing(&["contentMediaType"]) => "contentMediaType",
            "additionalItems" if sub.keyword("items").is_none_or(|items| items.kind() != Kind::Array) => "items",
            _ => return,
        };
        let needs = match lacks {
            "items" => "an array in `items`".to_owned(),
            "then" => "`then` or `else`".to_owned(),
            lacks => format!("`{lacks}`"),
        };
        let message = format!("`{name}` has no effect without {needs}");
        let remark = Raw::new(&rules::LONE_KEYWORD, member.name.id(), message);
        let remove = edit::remove_from(self.document, sub.value, member.name.id());
        // What an `if` was to decide, somebody has to say.
        self.say(if name == "if" { remark } else { remark.fix(format!("remove `{name}`"), [remove]) });
    }

    /// Keywords with a value that refuses nothing.
    fn says_nothing(&mut self, sub: Sub<'_>, member: Member<'_>) {
        let (name, value) = (member.name.text(), member.value);
        let zero = || value.as_decimal().is_some_and(|number| number.is_zero());
        let empty = || value.items().next().is_none() && value.members().next().is_none();
        let nothing = match name {
            "minLength" | "minItems" | "minProperties" => zero(),
            "uniqueItems" => value.as_bool() == Some(false),
            "required" => value.kind() == Kind::Array && empty() && sub.language.dialect > Dialect::Draft04,
            "dependentRequired" | "dependentSchemas" | "dependencies" => value.kind() == Kind::Object && empty(),
            _ => false,
        };
        if nothing {
            let message = format!("`{name}` {} refuses nothing", shown::value(value));
            let remove = edit::remove_from(self.document, sub.value, member.name.id());
            let remark = Raw::new(&rules::SAYS_NOTHING, member.name.id(), message);
            self.say(remark.fix(format!("remove `{name}`"), [remove]));
        }
    }

    /// A bound and its strict form: `strictest` says whether the strict one decides.
    fn weaker_bound(
        &mut self,
        sub: Sub<'_>,
        plain: &str,
        strict: &str,
        strictest: impl Fn(&mervik_document::Decimal, &mervik_document::Decimal) -> bool,
    ) {
        let (Some(plain), Some(strict)) = (sub.member(plain), sub.member(strict)) else { return };
        let (Some(a), Some(b)) = (plain.value.as_decimal(), strict.value.as_decimal()) else { return };
        let (weak, strong) = if strictest(&b, &a) { (plain, strict) } else { (strict, plain) };
        let spelled = |member: Member<'_>| format!("`{}` {}", member.name.text(), shown::value(member.value));
        let message = format!("{} has no effect beside {}", spelled(weak), spelled(strong));
        let remove = edit::remove_from(self.document, sub.value, weak.name.id());
        let remark = Raw::new(&rules::WEAKER_BOUND, weak.name.id(), message);
        self.say(remark.fix(format!("remove `{}`", weak.name.text()), [remove]));
    }

    /// Whether the schema says which dialect it is written in.
    pub(super) fn dialect(&mut self) {
        let root = self.document.root();
        if root.kind() == Kind::Object && root.get("$schema").is_none() {
            let remark = Raw::new(&rules::NO_DIALECT, root.id(), "the schema has no `$schema`");
            let uri = edit::quoted(Dialect::default().uri());
            let add = edit::add_first_member(self.document, root, "$schema", &uri);
            self.say(remark.fix(format!("add `$schema` {uri}"), [Some(add)]));
        }
    }
}
