//! Identity constraints that one side has and the other has not.

use super::fragments::{Body, Child, Fragment};
use super::{Compare, Place};
use crate::component::*;
use crate::schema::Schema;
use mervik_versions::Kind;

/// What a constraint says, so that it can be found on the other side whatever it is called.
fn meaning(schema: &Schema, identity: &Identity) -> String {
    let names = &schema.components.names;
    let test = |test: &Test| match test {
        Test::Any => "*".to_owned(),
        Test::Namespace(id) => format!("{{{}}}*", names.uri(*id)),
        Test::Name(name) => names.expanded(*name),
    };
    let path = |path: &Path| {
        let steps: Vec<String> = path.steps.iter().map(test).collect();
        let attribute = path.attribute.as_ref().map_or(String::new(), |one| format!("/@{}", test(one)));
        format!("{}{}{attribute}", if path.anywhere { ".//" } else { "" }, steps.join("/"))
    };
    let paths = |paths: &[Path]| {
        let mut all: Vec<String> = paths.iter().map(path).collect();
        all.sort_unstable();
        all.join("|")
    };
    let fields: Vec<String> = identity.fields.iter().map(|field| paths(field)).collect();
    let refer = identity.refer.and_then(|id| schema.components.identities.get(id.0 as usize));
    let refer = refer.map_or(String::new(), |refer| meaning(schema, refer));
    format!("{} {} {} {refer}", identity.kind.word(), paths(&identity.selector), fields.join(","))
}

impl Compare<'_> {
    pub(super) fn identities(&mut self, index: usize, place: &Place, inner: &Element, outer: &Element) {
        let of = |schema: &Schema, element: &Element| -> Vec<String> {
            let all = element.identities.iter().filter_map(|id| schema.components.identities.get(id.0 as usize));
            all.map(|identity| meaning(schema, identity)).collect()
        };
        let own = of(self.inner, inner);
        let (_, others) = (self.inner, self.outer);
        for id in &outer.identities {
            let Some(identity) = others.components.identities.get(id.0 as usize) else { continue };
            let meant = meaning(others, identity);
            // A key is stricter than a constraint that is alike but for being `unique`.
            let as_key = meant.strip_prefix("unique ").map(|rest| format!("key {rest}"));
            if own.contains(&meant) || as_key.is_some_and(|key| own.contains(&key)) {
                continue;
            }
            // A key asks for values as well; where nothing is nil, there is always one that is the element itself.
            let as_unique = meant.strip_prefix("key ").map(|rest| format!("unique {rest}"));
            let is_itself = |path: &Path| path.steps.is_empty() && path.attribute.is_none() && !path.anywhere;
            if as_unique.is_some_and(|unique| own.contains(&unique))
                && identity.fields.iter().flatten().all(is_itself)
                && !self.inner.components.elements.iter().any(|element| element.nillable)
            {
                continue;
            }
            if !identity.selector.iter().any(|path| self.may_reach(place, path)) {
                continue;
            }
            let name = others.components.names.local(identity.name).to_owned();
            let text = format!("the {} `{name}` {}", identity.kind.word(), self.said("is new", "is gone"));
            let origins = (inner.origin, Some(identity.origin));
            let mut any = false;
            let attributes = self.field_attributes(identity);
            for path in &identity.selector {
                for (count, attributes) in [(2, &attributes), (1, &attributes), (2, &Vec::new()), (1, &Vec::new())] {
                    let Some(body) = self.repeated(place, path, count, attributes) else { continue };
                    any = true;
                    let fragment = Fragment { content: body, ..self.fragment(place) };
                    self.claim(index, Kind::Identity, origins, text.clone(), "", fragment, false);
                }
            }
            let proved = any && self.claims.iter().any(|claim| claim.message == text && self.is_proved(claim));
            if !proved {
                self.undecided
                    .push(format!("`{}`: {text}, and no document was found that it refuses", self.path(index)));
            }
        }
    }

    /// Whether a path may lead to anything in the content of an element, as far as its first step tells.
    fn may_reach(&self, place: &Place, path: &Path) -> bool {
        if place.types.0 == ANY_TYPE {
            return true;
        }
        let Some(model) = self.inner.model(place.types.0) else { return path.steps.is_empty() };
        let (names, others) = (&self.inner.components.names, &self.outer.components.names);
        match path.steps.first() {
            Some(Test::Name(wanted)) if !path.anywhere => {
                let namespace = names.namespace(others.uri(others.namespace_of(*wanted)));
                let known = namespace.and_then(|namespace| names.find(namespace, others.local(*wanted)));
                model.wildcard(0).is_some() || known.is_some_and(|name| model.declaration(name).is_some())
            }
            _ => true,
        }
    }

    fn is_proved(&self, claim: &super::Claim) -> bool {
        self.document(claim.place, &claim.fragment).is_some_and(|witness| {
            let (accepted, refusal) = self.run(&witness);
            accepted && !refusal.is_empty()
        })
    }

    /// The attributes that the fields of a constraint are, by namespace and local name.
    fn field_attributes(&self, identity: &Identity) -> Vec<(String, String)> {
        let names = &self.outer.components.names;
        let paths = identity.fields.iter().flatten().filter(|path| path.steps.is_empty());
        let attributes = paths.filter_map(|path| match path.attribute {
            Some(Test::Name(name)) => {
                Some((names.uri(names.namespace_of(name)).to_owned(), names.local(name).to_owned()))
            }
            _ => None,
        });
        attributes.collect()
    }

    /// An element with some of its attributes, that it need not have.
    fn with_attributes(&self, child: &Child, attributes: &[(String, String)]) -> Option<Child> {
        let Child::Element(element, name) = child else { return None };
        let ty = self.samples.concrete(self.inner.components.element(*element)?.ty)?;
        let names = &self.inner.components.names;
        let mut fragment = Fragment::default();
        for one in self.inner.components.complex(ty).map(|complex| &*complex.attributes).unwrap_or_default() {
            let (uri, local) = (names.uri(names.namespace_of(one.name)), names.local(one.name));
            if attributes.iter().any(|(u, l)| u == uri && l == local) {
                let value = self.samples.attribute_value(one);
                fragment.attributes.push((uri.to_owned(), local.to_owned(), value));
            }
        }
        self.samples.element(*element, *name, &fragment, "-").map(Child::Markup)
    }

    /// Content of an element in which the path leads to so many elements that are alike.
    fn repeated(&self, place: &Place, path: &Path, count: usize, attributes: &[(String, String)]) -> Option<Body> {
        let (first, rest) = path.steps.split_first()?;
        let model = self.inner.model(place.types.0)?;
        let names = &self.inner.components.names;
        let others = &self.outer.components.names;
        let fits = |child: &Child, test: &Test| match (child, test) {
            (_, Test::Any) => true,
            (Child::Element(_, name), Test::Name(wanted)) => names.expanded(*name) == others.expanded(*wanted),
            (Child::Element(_, name), Test::Namespace(wanted)) => {
                names.uri(names.namespace_of(*name)) == others.uri(*wanted)
            }
            (Child::Markup(_), _) => false,
        };
        // The shortest way through the model that has so many of them.
        let mut open = std::collections::VecDeque::from([(model.start(), Vec::new(), 0usize)]);
        let mut looked = 0;
        while let Some((state, way, found)) = open.pop_front() {
            looked += 1;
            if looked > 2_000 {
                return None;
            }
            let enough = if rest.is_empty() { count } else { 1 };
            if found >= enough && model.accepts(&state) {
                if rest.is_empty() {
                    let dressed = |child: &Child| match fits(child, first) && !attributes.is_empty() {
                        true => self.with_attributes(child, attributes).unwrap_or_else(|| child.clone()),
                        false => child.clone(),
                    };
                    return Some(Body::Children(way.iter().map(dressed).collect()));
                }
                let at = way.iter().position(|child| fits(child, first))?;
                let Some(Child::Element(element, name)) = way.get(at).cloned() else { return None };
                let ty = self.inner.components.element(element)?.ty;
                let within = Place { inner: element, name, types: (ty, place.types.1), ..place.clone() };
                let deeper = Path { anywhere: false, steps: rest.to_vec(), attribute: None };
                let body = self.repeated(&within, &deeper, count, attributes)?;
                let markup =
                    self.samples.element(element, name, &Fragment { content: body, ..Fragment::default() }, "-")?;
                return Some(Body::Around(way, at, markup));
            }
            for (next, child) in self.samples.steps(model, &state) {
                let found = found + usize::from(fits(&child, first));
                if found <= enough && way.len() < 12 {
                    let mut way = way.clone();
                    way.push(child);
                    open.push_back((next, way, found));
                }
            }
        }
        None
    }
}
