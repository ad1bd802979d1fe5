//! Named sets of rules between fields, with parameters: `x-mervik` has them under `sets`, and a rule uses one with `use`.

use super::Compiler;
use super::keywords::Here;
use super::stated::{Draft, RULES};
use crate::error::Breach;
use crate::file::{FileId, Location};
use crate::resource::ResourceId;
use crate::schema::Stated;
use mervik_document::{Kind, Value, near};
use mervik_rules::Arguments;
use std::collections::HashSet;
use std::sync::Arc;

/// The directive.
pub(super) const SETS: &str = "sets";

/// What makes a use of a set out of a rule.
pub(super) const USE: &str = "use";

/// The members of a set, and of a use of one.
const OF_SET: [&str; 2] = ["parameters", RULES];
const OF_USE: [&str; 3] = [USE, "with", "id"];

const SET_HINT: &str =
    r#"`{ "parameters": ["from", "until"], "rules": [{ "id": "ends-later", "that": "until is after from" }] }`"#;
const USE_HINT: &str = r##"`{ "use": "#/x-mervik/sets/window", "with": { "from": "starts", "until": "ends" } }`"##;

/// A set of rules.
#[derive(Debug)]
pub(super) struct Set {
    parameters: Vec<String>,
    rules: Vec<Draft>,
}

impl Compiler<'_> {
    /// Reads all sets of a directive, for what is wrong with them.
    pub(super) fn sets(&mut self, file: FileId, sets: Value<'_>) {
        if self.is_object(file, SETS, sets) {
            for member in sets.members() {
                self.set(Location { file, node: member.value.id() });
            }
        }
    }

    /// The set at a place; `None` after an error, which is told once.
    fn set(&mut self, at: Location) -> Option<Arc<Set>> {
        if let Some(known) = self.sets.get(&at) {
            return known.clone();
        }
        let file = self.resources.file(at.file)?;
        let document = file.document();
        let read = self.read_set(at.file, document.value(at.node)).map(Arc::new);
        self.sets.insert(at, read.clone());
        read
    }

    fn read_set(&mut self, file: FileId, set: Value<'_>) -> Option<Set> {
        let at = |value: Value<'_>| Location { file, node: value.id() };
        let list = set.get(RULES).filter(|list| list.kind() == Kind::Array && list.items().next().is_some());
        let Some(list) = list else {
            let message = "a set must be an object with a list of `rules`".to_owned();
            self.resources.error(Breach::Value, at(set), message, Some(SET_HINT.to_owned()));
            return None;
        };
        for member in set.members().filter(|member| !OF_SET.contains(&member.name.text())) {
            self.no_member(file, "a set", member.name.as_value(), OF_SET);
        }
        let parameters = set.get("parameters");
        let names: Vec<String> = parameters
            .into_iter()
            .flat_map(|names| names.items())
            .map(|name| name.as_str().unwrap_or("").to_owned())
            .collect();
        let mut seen = HashSet::new();
        let sound = names.iter().all(|name| mervik_rules::is_parameter(name) && seen.insert(name));
        if let Some(parameters) = parameters.filter(|value| !sound || value.kind() != Kind::Array) {
            let message = "`parameters` must be a list of names, each there once".to_owned();
            let hint = "letters, digits and `_`, a letter first, and no word of the language of rules".to_owned();
            self.resources.error(Breach::Value, at(parameters), message, Some(hint));
            return None;
        }
        let mut ids = HashSet::new();
        let mut rules = Vec::new();
        for item in list.items() {
            if item.get(USE).is_some() {
                let message = "a set cannot use another one".to_owned();
                self.resources.error(Breach::Value, at(item), message, None);
                return None;
            }
            let draft = self.draft(file, item)?;
            if !ids.insert(draft.id.clone()) {
                let message = format!("the rule `{}` is stated twice here", draft.id);
                self.resources.error(Breach::RepeatedName, at(item), message, None);
            }
            rules.push(draft);
        }
        Some(Set { parameters: names, rules })
    }

    /// The rules that a use of a set comes to.
    pub(super) fn used(&mut self, here: Here<'_>, item: Value<'_>) -> Vec<Stated> {
        let (file, whole) = (here.at(item.id()).file, here.at(item.id()));
        for member in item.members().filter(|member| !OF_USE.contains(&member.name.text())) {
            self.no_member(file, "a use of a set", member.name.as_value(), OF_USE);
        }
        let text = |name: &str| item.get(name).map(|value| (value, value.as_str()));
        let (Some((target, Some(reference))), id @ (None | Some((_, Some(_))))) = (text(USE), text("id")) else {
            let message = "`use` must be a reference to a set, and `id` a text".to_owned();
            self.resources.error(Breach::Value, whole, message, Some(USE_HINT.to_owned()));
            return Vec::new();
        };
        let Some(set) = self.set_of(here.resource, reference, here.at(target.id())) else { return Vec::new() };
        let Some(arguments) = self.arguments_of(file, item, &set.parameters) else { return Vec::new() };
        let lead = id.and_then(|(_, id)| id).map(|id| format!("{id}-")).unwrap_or_default();
        let mut rules = Vec::new();
        for draft in &set.rules {
            match draft.with(&arguments, whole) {
                Ok(stated) => rules.push(Stated { id: format!("{lead}{}", draft.id).into(), ..stated }),
                Err(fault) => {
                    self.resources.error(Breach::Value, whole, mervik_rules::unfit(&draft.id, &fault), fault.hint);
                }
            }
        }
        rules
    }

    fn set_of(&mut self, from: ResourceId, reference: &str, at: Location) -> Option<Arc<Set>> {
        let (place, _) = self.resources.resolve(from, reference, at)?;
        self.set(place)
    }

    /// What stands for the parameters of a set; `None` after an error.
    fn arguments_of(&mut self, file: FileId, item: Value<'_>, parameters: &[String]) -> Option<Arguments> {
        let with = item.get("with");
        if let Some(with) = with {
            self.is_object(file, "with", with).then_some(())?;
        }
        let members: Vec<_> = with.into_iter().flat_map(|with| with.members()).collect();
        let given: Vec<&str> = members.iter().map(|member| member.name.text()).collect();
        let wrong = mervik_rules::misnamed(parameters, &given);
        let mut sound = wrong.is_empty();
        for (index, message, hint) in wrong {
            let name = index.and_then(|index| members.get(index)).map(|member| member.name.id());
            let node = name.unwrap_or_else(|| with.unwrap_or(item).id());
            self.resources.error(Breach::Value, Location { file, node }, message, hint);
        }
        let mut arguments = Arguments::new();
        for member in members {
            let at = Location { file, node: member.value.id() };
            let text = match member.value.kind() {
                Kind::Number | Kind::Bool => member.value.source(),
                _ => member.value.as_str().unwrap_or(""),
            };
            match mervik_rules::argument(text) {
                Ok(value) => drop(arguments.insert(member.name.text().to_owned(), value)),
                Err(fault) => {
                    sound = false;
                    self.resources.error_within(Breach::Value, at, fault.span, fault.message, fault.hint);
                }
            }
        }
        sound.then_some(arguments)
    }

    /// Refuses a member that something does not have.
    pub(super) fn no_member<const N: usize>(
        &mut self,
        file: FileId,
        what: &str,
        name: Value<'_>,
        known: [&'static str; N],
    ) {
        let text = name.as_str().unwrap_or("");
        let hint = near::nearest(text, known).map(|near| format!("`{near}` is near"));
        let message = format!("{what} has no member `{text}`");
        self.resources.error(Breach::Value, Location { file, node: name.id() }, message, hint);
    }
}
