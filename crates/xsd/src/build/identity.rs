//! Identity constraints and their paths (Part 1, section 3.11).

use super::{Builder, Kind};
use crate::component::*;
use mervik_document::shown;
use mervik_xml::names;

impl Builder<'_> {
    pub(super) fn identities(&mut self) {
        let declared: Vec<(usize, Origin)> = self
            .out
            .elements
            .iter()
            .enumerate()
            .filter_map(|(index, element)| Some((index, element.origin?)))
            .collect();
        let mut refers = Vec::new();
        for (index, origin) in declared {
            for (at, node) in self.children(origin) {
                let kind = match node.local.as_str() {
                    "unique" => IdentityKind::Unique,
                    "key" => IdentityKind::Key,
                    "keyref" => IdentityKind::KeyRef,
                    _ => continue,
                };
                let Some(id) = self.identity(kind, at) else { continue };
                if let Some(element) = self.out.elements.get_mut(index) {
                    element.identities.push(id);
                }
                if kind == IdentityKind::KeyRef {
                    refers.push((id, at));
                }
            }
        }
        for (id, origin) in refers {
            let Some(name) = self.refer(origin, "refer", Kind::Identity) else { continue };
            let target = self.out.globals.get(&(Kind::Identity, name)).map(|id| IdentityId(*id));
            let Some((target, known)) = target.and_then(|id| Some((id, self.out.identities.get(id.0 as usize)?)))
            else {
                continue;
            };
            let count = known.fields.len();
            if known.kind == IdentityKind::KeyRef {
                let message = format!("`{}` must be a `key` or `unique`, found a `keyref`", self.out.names.local(name));
                self.findings.error("src-resolve", origin, message).at("refer");
                continue;
            }
            let own = self.out.identities.get(id.0 as usize).map_or(0, |own| own.fields.len());
            if own != count {
                let message = format!("a `keyref` must have as many fields as what it refers to, {count}, found {own}");
                self.findings.error("c-props-correct.2", origin, message);
                continue;
            }
            if let Some(own) = self.out.identities.get_mut(id.0 as usize) {
                own.refer = Some(target);
            }
        }
    }

    fn identity(&mut self, kind: IdentityKind, origin: Origin) -> Option<IdentityId> {
        let local = self.value(origin, "name")?;
        let name = self.out.names.intern(self.target(origin), local);
        if self.out.globals.contains_key(&(Kind::Identity, name)) {
            let message = format!("the identity constraint `{local}` must be declared once");
            self.findings.error("sch-props-correct.2", origin, message).at("name");
            return None;
        }
        let (mut selector, mut fields, mut field_texts) = (Vec::new(), Vec::new(), Vec::new());
        for (at, node) in self.children(origin) {
            let text = self.value(at, "xpath").unwrap_or("");
            match node.local.as_str() {
                "selector" => selector = self.paths(at, text, false)?,
                "field" => {
                    fields.push(self.paths(at, text, true)?);
                    field_texts.push(text.into());
                }
                _ => {}
            }
        }
        let id = self.out.identities.len() as u32;
        self.out.globals.insert((Kind::Identity, name), id);
        self.out.identities.push(Identity { name, origin, kind, selector, fields, field_texts, refer: None });
        Some(IdentityId(id))
    }

    /// Reads the alternatives of a selector or a field; tells what is no such path.
    fn paths(&mut self, origin: Origin, text: &str, field: bool) -> Option<Vec<Path>> {
        let read: Option<Vec<Path>> = text.split('|').map(|path| self.path(origin, path, field)).collect();
        if read.is_none() {
            let (rule, word, form) = match field {
                true => ("c-fields-xpaths", "field", "`a/b/@c`"),
                false => ("c-selector-xpath", "selector", "`a/b`"),
            };
            let message = format!("a {word} must be a path such as {form} or `.//a`, found `{}`", shown::text(text));
            self.findings.error(rule, origin, message).at("xpath");
            self.findings
                .hint("names of children, `*`, `.` and a leading `.//` are all there is; prefixes must be declared");
        }
        read
    }

    fn path(&mut self, origin: Origin, text: &str, field: bool) -> Option<Path> {
        let mut tokens = tokens(text)?.into_iter().peekable();
        let mut path = Path { anywhere: false, steps: Vec::new(), attribute: None };
        if tokens.peek().map(String::as_str) == Some(".") {
            let mut ahead = tokens.clone();
            ahead.next();
            if ahead.next().as_deref() == Some("//") {
                path.anywhere = true;
                tokens.next();
                tokens.next();
            }
        }
        loop {
            let token = tokens.next()?;
            match token.as_str() {
                "." => {}
                "@" | "attribute::" if field => {
                    let test = tokens.next()?;
                    path.attribute = Some(self.test(origin, &test)?);
                    return tokens.next().is_none().then_some(path);
                }
                "child::" => {
                    let test = tokens.next()?;
                    path.steps.push(self.test(origin, &test)?);
                }
                test => path.steps.push(self.test(origin, test)?),
            }
            match tokens.next().as_deref() {
                None => return Some(path),
                Some("/") => {}
                Some(_) => return None,
            }
        }
    }

    /// A test of a name; names without prefix are in no namespace, whatever the default is.
    fn test(&mut self, origin: Origin, text: &str) -> Option<Test> {
        if text == "*" {
            return Some(Test::Any);
        }
        let document = self.document(origin);
        if let Some(prefix) = text.strip_suffix(":*") {
            let uri = document.tree.resolve(origin.node, prefix).filter(|_| names::is_ncname(prefix))?;
            return Some(Test::Namespace(self.out.names.intern_namespace(uri)));
        }
        let (prefix, local) = names::split(text)?;
        let uri = if prefix.is_empty() { "" } else { document.tree.resolve(origin.node, prefix)? };
        let namespace = self.out.names.intern_namespace(uri);
        Some(Test::Name(self.out.names.intern(namespace, local)))
    }
}

/// A path in its tokens; `None` for what no path may have.
fn tokens(text: &str) -> Option<Vec<String>> {
    let mut tokens = Vec::new();
    let mut rest = text.trim_start_matches(names::is_space);
    while !rest.is_empty() {
        let length = if rest.starts_with("//") {
            2
        } else if rest.starts_with(['/', '@', '.', '*']) {
            1
        } else if rest.starts_with("child::") {
            "child::".len()
        } else if rest.starts_with("attribute::") {
            "attribute::".len()
        } else {
            let name = |c: char| names::is_ncname_char(c) || c == ':';
            let length = rest.find(|c| !name(c)).unwrap_or(rest.len());
            // `p:*` is one token.
            if rest.get(..length)?.ends_with(':') && rest.get(length..)?.starts_with('*') { length + 1 } else { length }
        };
        if length == 0 || (rest.starts_with("..")) {
            return None;
        }
        tokens.push(rest.get(..length)?.to_owned());
        rest = rest.get(length..)?.trim_start_matches(names::is_space);
    }
    Some(tokens)
}
