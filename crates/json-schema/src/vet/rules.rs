//! The rules of vetting: one record each, from which messages, help and tests are made.

use mervik_document::Severity;

/// One thing that vetting looks for.
#[derive(Debug)]
pub struct VetRule {
    /// The identifier, which stays the same from version to version.
    pub id: &'static str,
    /// How much it weighs: an error breaks the standard, a warning is probably a mistake, a hint could be better.
    pub severity: Severity,
    /// What is the matter, as one phrase.
    pub title: &'static str,
    /// Why it matters, and what to do about it.
    pub why: &'static str,
    /// A schema that has it.
    pub bad: &'static str,
    /// The same schema without it.
    pub good: &'static str,
    /// The profile that asks for it; `None` for rules that hold for every schema.
    pub profile: Option<Profile>,
}

/// What a schema is to be fit for, beyond its standard.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Profile {
    /// To be given to a language model's service, which fills it in.
    ModelOutput,
}

impl VetRule {
    /// The rule with this identifier.
    pub fn find(id: &str) -> Option<&'static VetRule> {
        RULES.iter().copied().find(|rule| rule.id == id)
    }
}

macro_rules! rules {
    ($($name:ident = $id:literal, $severity:ident, $profile:expr, $title:literal, $why:literal, $bad:literal, $good:literal;)*) => {
        $(pub(crate) static $name: VetRule = VetRule {
            id: $id,
            severity: Severity::$severity,
            title: $title,
            why: $why,
            bad: $bad,
            good: $good,
            profile: $profile,
        };)*
        /// All rules: those of the standard, what can never hold, what has no effect, mistakes, hints, profiles.
        pub static RULES: &[&VetRule] = &[$(&$name),*];
    };
}

rules! {
    NOT_JSON = "not-json", Error, None,
        "the schema is not JSON",
        "Nothing can be said about a schema that cannot be read. The place is where reading stopped; the slip may stand just before it.",
        r#"{ "type": "object", }"#,
        r#"{ "type": "object" }"#;
    REPEATED_NAME = "repeated-name", Error, None,
        "a name stands twice in one object",
        "Readers of JSON keep the first or the last of them, so that two programs may see two different schemas.",
        r#"{ "minimum": 0, "maximum": 40, "minimum": 1 }"#,
        r#"{ "minimum": 1, "maximum": 40 }"#;
    KEYWORD_VALUE = "keyword-value", Error, None,
        "a keyword has a value that its metaschema does not allow",
        "The metaschema of the dialect, which `$schema` names, says what each keyword may be given. Other programs refuse the schema, or pass over the keyword.",
        r#"{ "type": "array", "minItems": -1 }"#,
        r#"{ "type": "array", "minItems": 1 }"#;
    LOST_REFERENCE = "lost-reference", Error, None,
        "a reference leads nowhere",
        "`$ref` takes a URI, resolved against the `$id` around it, and after `#` a JSON Pointer or an anchor. Files must lie in the schema's folder, in one that `--map` names, or in one that `--allow-path` allows; nothing is fetched from a network.",
        r##"{ "properties": { "berth": { "$ref": "#/$defs/bert" } }, "$defs": { "berth": { "type": "string" } } }"##,
        r##"{ "properties": { "berth": { "$ref": "#/$defs/berth" } }, "$defs": { "berth": { "type": "string" } } }"##;
    EMPTY_CYCLE = "empty-cycle", Error, None,
        "schemas lead back to themselves without a step into the document",
        "To check a value against such a schema is to check it against itself, without end. A recursive schema must go through a child: `properties`, `items` and the like.",
        r##"{ "$ref": "#/$defs/crane", "$defs": { "crane": { "allOf": [{ "$ref": "#/$defs/crane" }] } } }"##,
        r##"{ "$ref": "#/$defs/crane", "$defs": { "crane": { "properties": { "spare": { "$ref": "#/$defs/crane" } } } } }"##;
    BAD_PATTERN = "bad-pattern", Error, None,
        "a pattern is no regular expression",
        "Patterns follow ECMA-262 in Unicode mode. A pattern that does not compile refuses everything in one program and nothing in the next.",
        r#"{ "pattern": "^IMO[0-9{7}$" }"#,
        r#"{ "pattern": "^IMO[0-9]{7}$" }"#;
    BAD_IDENTITY = "bad-identity", Error, None,
        "`$id` or an anchor does not identify one schema",
        "Two schemas with one name make every reference to it ambiguous. `$id` takes a URI without a fragment, `$anchor` a plain name.",
        r##"{ "$defs": { "quay": { "$anchor": "place" }, "buoy": { "$anchor": "place" } }, "$ref": "#place" }"##,
        r##"{ "$defs": { "quay": { "$anchor": "place" } }, "$ref": "#place" }"##;
    UNSUPPORTED = "unsupported", Error, None,
        "the schema asks for something that Mervik cannot check",
        "A rule that is passed over would let wrong documents pass, so the schema is not used at all. Directives under `x-mervik` and required vocabularies are refused when they are not known.",
        r#"{ "x-mervik": { "tides": true } }"#,
        r#"{ "x-mervik": { "silence": ["open-object"] } }"#;

    CONTRADICTING_BOUNDS = "contradicting-bounds", Warning, None,
        "two bounds leave nothing between them",
        "No value can keep to both, so the schema refuses every one of that kind. Often the two have been swapped, or one came in through `allOf` or `$ref`.",
        r#"{ "type": "number", "minimum": 18, "maximum": 1.8 }"#,
        r#"{ "type": "number", "minimum": 1.8, "maximum": 18 }"#;
    CONTRADICTING_RULES = "contradicting-rules", Warning, None,
        "rules of one value leave no value",
        "Each of the rules lets values pass, and no value passes all of them: a pattern for three letters beside a `minLength` of 4, or a `multipleOf` of 7 between 10 and 13.",
        r#"{ "type": "string", "pattern": "^[A-Z]{3}$", "minLength": 4 }"#,
        r#"{ "type": "string", "pattern": "^[A-Z]{3}$", "minLength": 3 }"#;
    IMPLIED_RULE = "implied-rule", Hint, None,
        "a rule says what the rules beside it say already",
        "It refuses nothing that they let pass. It may stay for readers, or go; when the other rules change, it may begin to matter without anybody meaning it.",
        r#"{ "type": "string", "pattern": "^[A-Z]{3}$", "maxLength": 10 }"#,
        r#"{ "type": "string", "pattern": "^[A-Z]{3}$" }"#;
    CONTRADICTING_TYPES = "contradicting-types", Warning, None,
        "schemas that must all hold allow no type in common",
        "`allOf` and `$ref` add to what stands beside them; they replace nothing. When their types exclude each other, nothing is accepted.",
        r#"{ "type": "string", "allOf": [{ "type": "integer" }] }"#,
        r#"{ "type": "integer", "allOf": [{ "type": "integer" }] }"#;
    NO_VALUE_LEFT = "no-value-left", Warning, None,
        "none of the values of `enum` or `const` satisfies the other rules",
        "Every rule of a schema must hold at once. Here each listed value breaks another rule, so nothing is accepted.",
        r#"{ "type": "integer", "enum": ["N1", "N2"] }"#,
        r#"{ "type": "string", "enum": ["N1", "N2"] }"#;
    DEAD_VALUE = "dead-value", Warning, None,
        "a value of `enum` breaks another rule beside it",
        "The list says that the value is allowed, another rule refuses it. Take it off the list, or widen the other rule.",
        r#"{ "enum": ["N1", "N2", "quay"], "maxLength": 2 }"#,
        r#"{ "enum": ["N1", "N2"], "maxLength": 2 }"#;
    FORBIDDEN_REQUIRED = "forbidden-required", Warning, None,
        "a required property is forbidden",
        "`additionalProperties: false` forbids every name that `properties` and `patternProperties` of the same schema do not describe, whatever other schemas say. With the name required, no object is accepted. Where schemas are combined, `unevaluatedProperties: false` sees what all of them describe.",
        r#"{ "properties": { "imo": {} }, "additionalProperties": false, "required": ["imo", "flag"] }"#,
        r#"{ "properties": { "imo": {}, "flag": {} }, "additionalProperties": false, "required": ["imo", "flag"] }"#;
    FORBIDDEN_PROPERTY = "forbidden-property", Warning, None,
        "a property is described here and forbidden there",
        "`additionalProperties: false` looks at the `properties` of its own schema only. A schema that is combined with it through `allOf` or `$ref` can add no property. `unevaluatedProperties: false` on the outside is what closes a combined schema.",
        r#"{ "allOf": [{ "properties": { "imo": {} }, "additionalProperties": false }], "properties": { "flag": {} } }"#,
        r#"{ "allOf": [{ "properties": { "imo": {} } }], "properties": { "flag": {} }, "unevaluatedProperties": false }"#;

    IDLE_KEYWORD = "idle-keyword", Warning, None,
        "a keyword has no effect on the types that are allowed",
        "`minLength` speaks of strings alone, `minimum` of numbers, `properties` of objects. Beside a `type` that excludes them they never refuse anything: the type or the keyword is not what was meant.",
        r#"{ "type": "integer", "minLength": 7 }"#,
        r#"{ "type": "integer", "minimum": 1000000 }"#;
    IGNORED_SIBLING = "ignored-sibling", Warning, None,
        "a keyword beside `$ref` is not read in this dialect",
        "Up to draft-07, `$ref` makes everything beside it go unread. Put the reference into `allOf`, or move to a newer dialect.",
        r##"{ "$schema": "http://json-schema.org/draft-07/schema#", "properties": { "name": { "$ref": "#/definitions/text", "maxLength": 60 } }, "definitions": { "text": { "type": "string" } } }"##,
        r##"{ "$schema": "http://json-schema.org/draft-07/schema#", "properties": { "name": { "allOf": [{ "$ref": "#/definitions/text" }], "maxLength": 60 } }, "definitions": { "text": { "type": "string" } } }"##;
    LONE_KEYWORD = "lone-keyword", Warning, None,
        "a keyword lacks the one that it works with",
        "`then` and `else` need `if`, `if` needs one of them, `minContains` needs `contains`, `additionalItems` needs an array in `items`. Alone they refuse nothing.",
        r#"{ "if": { "required": ["reefer"] }, "type": "object" }"#,
        r#"{ "if": { "required": ["reefer"] }, "then": { "required": ["voltage"] }, "type": "object" }"#;
    WEAKER_BOUND = "weaker-bound", Warning, None,
        "a bound has no effect beside a stricter one",
        "Whatever keeps to the stricter of two bounds keeps to the other as well. One of them is left over, or the two were meant for different ends.",
        r#"{ "minimum": 0, "exclusiveMinimum": 0 }"#,
        r#"{ "exclusiveMinimum": 0 }"#;
    CONTAINED_BRANCH = "contained-branch", Warning, None,
        "a branch of a union accepts nothing that another one does not accept",
        "In `anyOf` such a branch changes nothing. In `oneOf` whatever matches it matches the other as well, so that the branch makes documents fail instead of letting them in.",
        r#"{ "anyOf": [{ "type": "number", "minimum": 0 }, { "type": "number" }] }"#,
        r#"{ "anyOf": [{ "type": "number", "minimum": 0 }, { "type": "string" }] }"#;

    MISSPELLED_KEYWORD = "misspelled-keyword", Warning, None,
        "an unknown keyword is spelled nearly like a known one",
        "The standard has programs pass over keywords that they do not know. A misspelled rule is therefore never checked, and nobody says so.",
        r#"{ "type": "object", "requried": ["imo"] }"#,
        r#"{ "type": "object", "required": ["imo"] }"#;
    FOREIGN_KEYWORD = "foreign-keyword", Warning, None,
        "a keyword belongs to another dialect",
        "Dialects have different keywords: `prefixItems` came with 2020-12, `const` with draft-06, `additionalItems` went with 2020-12. In a dialect that does not know it, a keyword is passed over.",
        r#"{ "$schema": "http://json-schema.org/draft-07/schema#", "dependentRequired": { "shore_power": ["voltage"] } }"#,
        r#"{ "$schema": "http://json-schema.org/draft-07/schema#", "dependencies": { "shore_power": ["voltage"] } }"#;
    MISPLACED_KEYWORD = "misplaced-keyword", Warning, None,
        "a keyword stands inside `properties`, where it is the name of a property",
        "What stands in `properties` describes properties, by their names. `required` and `additionalProperties` belong beside `properties`; `required` is a list of names there.",
        r#"{ "properties": { "imo": { "type": "string" }, "additionalProperties": false } }"#,
        r#"{ "properties": { "imo": { "type": "string" } }, "additionalProperties": false }"#;
    LOOSE_PATTERN = "loose-pattern", Warning, None,
        "a pattern may match anywhere in the text, and was probably meant for all of it",
        "A pattern need only match somewhere: `[0-9]{7}` accepts `x12345678y`. `^` and `$` tie it to the start and the end; around alternatives they need a group. The examples beside the pattern match from start to end.",
        r#"{ "pattern": "IMO[0-9]{7}", "examples": ["IMO9412086"] }"#,
        r#"{ "pattern": "^IMO[0-9]{7}$", "examples": ["IMO9412086"] }"#;
    UNUSED_DEFINITION = "unused-definition", Warning, None,
        "nothing refers to a definition",
        "A definition that no reference reaches is left over, or the reference is missing. Files that hold definitions alone are not asked. Vet files together, and what one uses of the other counts.",
        r#"{ "type": "string", "$defs": { "berth": { "type": "string" } } }"#,
        r##"{ "$ref": "#/$defs/berth", "$defs": { "berth": { "type": "string" } } }"##;
    DUPLICATE_VALUE = "duplicate-value", Warning, None,
        "`enum` has the same value twice",
        "The second one changes nothing. Often another value was meant.",
        r#"{ "enum": ["gravel", "grain", "gravel"] }"#,
        r#"{ "enum": ["gravel", "grain"] }"#;
    REFUSED_DEFAULT = "refused-default", Warning, None,
        "the default is refused by its own schema",
        "Programs fill in the default where a value is absent. One that does not hold makes good documents bad.",
        r#"{ "type": "integer", "minimum": 1, "default": 0 }"#,
        r#"{ "type": "integer", "minimum": 1, "default": 1 }"#;
    REFUSED_EXAMPLE = "refused-example", Warning, None,
        "an example is refused by its own schema",
        "Readers copy examples. Either the example or the schema says what was not meant.",
        r#"{ "type": "string", "pattern": "^[A-Z]{2}$", "examples": ["NO", "Norway"] }"#,
        r#"{ "type": "string", "pattern": "^[A-Z]{2}$", "examples": ["NO", "IS"] }"#;
    OVERLAPPING_TAGS = "overlapping-tags", Warning, None,
        "two branches of a union share a value of the property that tells them apart",
        "When each value of one property belongs to one branch, a check goes straight to that branch and reports on it alone. A value that two branches share takes that away, and in `oneOf` may make both match.",
        r#"{ "oneOf": [{ "properties": { "kind": { "const": "bulk" } }, "required": ["kind"], "maxProperties": 4 }, { "properties": { "kind": { "enum": ["liquid", "bulk"] } }, "required": ["kind"], "minProperties": 3 }] }"#,
        r#"{ "oneOf": [{ "properties": { "kind": { "const": "bulk" } }, "required": ["kind"], "maxProperties": 4 }, { "properties": { "kind": { "enum": ["liquid", "gas"] } }, "required": ["kind"], "minProperties": 3 }] }"#;
    UNKNOWN_FORMAT = "unknown-format", Warning, None,
        "a format is not known",
        "A format that a program does not know refuses nothing. `pattern` states a form that every program checks.",
        r#"{ "type": "string", "format": "datetime" }"#,
        r#"{ "type": "string", "format": "date-time" }"#;
    FREE_TEXT_VALUES = "free-text-values", Warning, None,
        "`enum` lists many values that look like free text",
        "A list of sentences is mostly what a generator made of the samples that it saw. The next text is refused. `type: string` with a length is what was meant.",
        r#"{ "enum": ["Arrived early at the quay", "Crew change on Friday", "Needs two tugs", "Waits for the tide", "Pilot on board at six", "Left lines on the quay", "Asks for a later slot", "Water to be delivered", "Crane three is out", "Engine trouble on arrival", "Customs came on board", "No shore power today"] }"#,
        r#"{ "type": "string", "maxLength": 280 }"#;
    UNSAFE_INTEGER = "unsafe-integer", Warning, None,
        "an integer may be larger than many programs can hold exactly",
        "Programs that keep numbers as 64-bit floating point round integers beyond 2^53 without a word (RFC 8259, section 6). Identifiers of that size are safer as strings.",
        r#"{ "type": "integer", "minimum": 0, "maximum": 18446744073709551615 }"#,
        r#"{ "type": "integer", "minimum": 0, "maximum": 9007199254740991 }"#;
    LOOSE_TYPE = "loose-type", Warning, None,
        "`type` lists nearly everything",
        "A list of this length refuses next to nothing, and tells a reader less. Mostly it grew one refused document at a time.",
        r#"{ "type": ["string", "number", "boolean", "object", "array", "null"] }"#,
        r#"{ "type": ["string", "number", "null"] }"#;
    MISSPELLED_REQUIRED = "misspelled-required", Warning, None,
        "a required name is spelled nearly like a described property",
        "`required` takes names as they are. A name that `properties` does not describe is required all the same, and whatever it holds is accepted.",
        r#"{ "properties": { "draught_m": { "type": "number" } }, "required": ["draugth_m"] }"#,
        r#"{ "properties": { "draught_m": { "type": "number" } }, "required": ["draught_m"] }"#;

    SAYS_NOTHING = "says-nothing", Hint, None,
        "a keyword states what holds anyway",
        "`minLength: 0`, `uniqueItems: false`, an empty `required` and the like refuse nothing. They can go.",
        r#"{ "type": "string", "minLength": 0 }"#,
        r#"{ "type": "string" }"#;
    UNKNOWN_KEYWORD = "unknown-keyword", Hint, None,
        "a keyword is not known",
        "Programs pass over keywords that they do not know. For notes of your own, names that start with `x-` say that it is meant so.",
        r#"{ "type": "number", "unit": "metre" }"#,
        r#"{ "type": "number", "x-unit": "metre" }"#;
    OPEN_OBJECT = "open-object", Hint, None,
        "an object does not say whether other properties are allowed",
        "A misspelled optional property passes unnoticed. `additionalProperties: false` refuses it; `additionalProperties: true` says that others are welcome.",
        r#"{ "type": "object", "properties": { "imo": { "type": "string" } } }"#,
        r#"{ "type": "object", "properties": { "imo": { "type": "string" } }, "additionalProperties": false }"#;
    NO_DIALECT = "no-dialect", Hint, None,
        "the schema does not say which dialect it is written in",
        "Without `$schema` every program takes its own default, and dialects differ in what they check.",
        r#"{ "type": "string" }"#,
        r#"{ "$schema": "https://json-schema.org/draft/2020-12/schema", "type": "string" }"#;
    UNDESCRIBED_REQUIRED = "undescribed-required", Hint, None,
        "a required property is not described",
        "The property must be there, and may be anything at all.",
        r#"{ "properties": { "imo": { "type": "string" } }, "required": ["imo", "flag"] }"#,
        r#"{ "properties": { "imo": { "type": "string" }, "flag": { "type": "string" } }, "required": ["imo", "flag"] }"#;
    SLOW_PATTERN = "slow-pattern", Hint, None,
        "a pattern needs an engine that goes back",
        "Look-around and back-references cannot be matched in one pass. Mervik bounds the work, other programs may hang on a text made for it.",
        r#"{ "pattern": "^(?!.*--)[a-z-]+$" }"#,
        r#"{ "pattern": "^([a-z]+-)*[a-z]+$" }"#;
    IDLE_MESSAGE = "idle-message", Warning, None,
        "a message is for a keyword that is not there",
        "`messages` says what is told instead of Mervik's own words when a keyword of the same schema, or of one that it refers to, is not kept. A message for another keyword is never told: mostly the keyword went, or the name is another one's.",
        r#"{ "maxLength": 40, "x-mervik": { "messages": { "minLength": "{ $title } is too short." } } }"#,
        r#"{ "maxLength": 40, "x-mervik": { "messages": { "maxLength": "{ $title } is too long." } } }"#;

    MODEL_ROOT = "model-root", Warning, Some(Profile::ModelOutput),
        "the root is no plain object",
        "Services that fill in a schema want an object at the root, and no union there. Wrap what there is in a property.",
        r#"{ "type": "array", "description": "The incidents", "items": { "type": "string" } }"#,
        r#"{ "type": "object", "additionalProperties": false, "required": ["incidents"], "properties": { "incidents": { "description": "The incidents", "type": "array", "items": { "type": "string" } } } }"#;
    MODEL_OPEN_OBJECT = "model-open-object", Warning, Some(Profile::ModelOutput),
        "an object is not closed",
        "Services that fill in a schema demand `additionalProperties: false` on every object.",
        r#"{ "type": "object", "required": ["quay"], "properties": { "quay": { "description": "The quay", "type": "string" } } }"#,
        r#"{ "type": "object", "additionalProperties": false, "required": ["quay"], "properties": { "quay": { "description": "The quay", "type": "string" } } }"#;
    MODEL_OPTIONAL_PROPERTY = "model-optional-property", Warning, Some(Profile::ModelOutput),
        "a property is optional",
        "Services that fill in a schema demand every property in `required`. What may be absent is made to allow null instead.",
        r#"{ "type": "object", "additionalProperties": false, "properties": { "quay": { "description": "The quay", "type": "string" } } }"#,
        r#"{ "type": "object", "additionalProperties": false, "required": ["quay"], "properties": { "quay": { "description": "The quay", "type": ["string", "null"] } } }"#;
    MODEL_KEYWORD = "model-keyword", Warning, Some(Profile::ModelOutput),
        "a keyword is not supported",
        "Services that fill in a schema know a part of the standard: types, properties, items, `anyOf`, `$ref`, `enum` and `const`, `pattern` and `format`, bounds of numbers and of the number of items. Keep the full schema for checking what comes back.",
        r#"{ "type": "object", "additionalProperties": false, "required": ["quay"], "properties": { "quay": { "description": "The quay", "type": "string", "maxLength": 3 } } }"#,
        r#"{ "type": "object", "additionalProperties": false, "required": ["quay"], "properties": { "quay": { "description": "The quay, at most three letters", "type": "string" } } }"#;
    MODEL_NO_DESCRIPTION = "model-no-description", Warning, Some(Profile::ModelOutput),
        "a property has no description",
        "The description is what a model knows of the field. A name alone invites guesses.",
        r#"{ "type": "object", "additionalProperties": false, "required": ["quay"], "properties": { "quay": { "type": "string" } } }"#,
        r#"{ "type": "object", "additionalProperties": false, "required": ["quay"], "properties": { "quay": { "description": "The quay where it happened, such as N1", "type": "string" } } }"#;
}
