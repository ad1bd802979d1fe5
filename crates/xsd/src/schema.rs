//! A schema that is ready to check documents.

use crate::build::{self, Components};
use crate::component::*;
use crate::constraint;
use crate::content::Model;
use crate::directives::Directives;
use crate::names::{NameId, NsId, XSI};
use crate::remark::Remark;
use crate::source::{Document, Fetch, Loader};
use crate::stated::StatedRules;
use crate::syntax;
use mervik_document::Severity;
use mervik_document::finding::SchemaPlace;
use mervik_document::tongue::Tongue;
use mervik_messages::Speaker;
use std::sync::Arc;

/// A compiled schema. It is shared by all threads that check.
#[derive(Debug)]
pub struct Schema {
    pub(crate) components: Components,
    pub(crate) models: Vec<Model>,
    pub(crate) documents: Vec<Document>,
    /// What checks ask of each type, by its number.
    pub(crate) checks: Vec<TypeCheck>,
    pub(crate) xsi: NsId,
    pub(crate) has_identities: bool,
    pub(crate) directives: Directives,
    /// Rules between fields.
    pub(crate) stated: StatedRules,
    /// Who translates it.
    pub(crate) speaker: Speaker,
}

/// What a check asks of a type.
#[derive(Debug, Default)]
pub(crate) struct TypeCheck {
    /// The attributes by name, each with its place among the uses.
    pub(crate) attributes: Vec<(NameId, u32)>,
    /// How many attributes are required.
    pub(crate) required: u32,
    /// The type of the text, where there is nothing but text.
    pub(crate) text: Option<TypeId>,
    /// Whether the text may be an identifier or refer to something.
    pub(crate) has_roles: bool,
}

/// A schema with all that there is to say about it.
#[derive(Debug)]
pub struct Compiled {
    /// The schema; of no use for checks when a remark is an error.
    pub schema: Schema,
    /// What is wrong, by document and place.
    pub remarks: Vec<Remark>,
}

impl Compiled {
    /// Whether the schema breaks its standard.
    pub fn is_broken(&self) -> bool {
        self.remarks.iter().any(|remark| remark.severity == Severity::Error)
    }
}

/// Reads and compiles a schema: the document `text`, known to people as `name` and at `uri`, with all that it includes,
/// imports and redefines (XML Schema 1.0, Part 1).
///
/// # Errors
///
/// A text that is no well-formed XML. All else that is wrong is a remark.
pub fn compile(name: &str, uri: &str, text: String, fetch: &mut dyn Fetch) -> Result<Compiled, Box<mervik_xml::Fault>> {
    let mut loader = Loader::new(fetch);
    loader.main(name, uri, text)?;
    let Loader { documents, names, mut findings, .. } = loader;
    for (index, document) in documents.all.iter().enumerate() {
        syntax::check(index as u32, document, &mut findings);
    }
    let mut components = build::build(&documents, names, &mut findings);
    // Where references lead nowhere, what follows from them would be told, too.
    let models = constraint::check(&mut components, &documents.all, &mut findings);
    let xsi = components.names.intern_namespace(XSI);
    let checks = (0..components.types.len() as u32).map(|index| type_check(&components, TypeId(index))).collect();
    let mut directives = Directives::read(&documents.all, &mut findings);
    let stated = StatedRules::compile(&components, &models, &mut directives, &mut findings);
    let remarks = findings.placed(&documents.all);
    let (has_identities, speaker) = (!components.identities.is_empty(), Speaker::default());
    let schema = Schema {
        components,
        models,
        documents: documents.all,
        checks,
        xsi,
        has_identities,
        directives,
        stated,
        speaker,
    };
    Ok(Compiled { schema, remarks })
}

fn type_check(components: &Components, id: TypeId) -> TypeCheck {
    let text = components.text_type(id);
    let has_roles = text.is_some_and(|text| components.reader().has_roles(text));
    let Some(complex) = components.complex(id) else { return TypeCheck { text, has_roles, ..TypeCheck::default() } };
    let mut attributes: Vec<(NameId, u32)> =
        complex.attributes.iter().enumerate().map(|(index, one)| (one.name, index as u32)).collect();
    attributes.sort_unstable();
    let required = complex.attributes.iter().filter(|one| one.required).count() as u32;
    TypeCheck { attributes, required, text, has_roles }
}

impl Schema {
    /// Lets findings be told by someone who has catalogues of the schema's documents, in the order of [`Schema::sources`].
    #[must_use]
    pub fn spoken_by(self, speaker: Speaker) -> Schema {
        Schema { speaker, ..self }
    }

    /// The language that findings are told in, where nobody else has words for them.
    pub fn tongue(&self) -> Tongue {
        self.speaker.tongue()
    }

    /// The global elements, as `{namespace}local` or `local`.
    pub fn roots(&self) -> Vec<String> {
        let names = &self.components.names;
        let globals = self.components.elements.iter().filter(|element| element.global && !element.is_abstract);
        globals.map(|element| names.expanded(element.name)).collect()
    }

    /// The names of the documents that it was compiled from, the one that was named first.
    pub fn sources(&self) -> impl Iterator<Item = &str> {
        self.documents.iter().map(|document| &*document.name)
    }

    /// The place of a component, as findings name it.
    pub(crate) fn place(&self, origin: Option<Origin>) -> Option<SchemaPlace> {
        let origin = origin?;
        let document = self.documents.get(origin.document as usize)?;
        let node = document.tree.node(origin.node)?;
        let at = document.path(origin.node);
        Some(SchemaPlace {
            source: Arc::clone(&document.name),
            uri: format!("{}#{at}", document.uri),
            at,
            place: document.lines.place(&document.text, node.offset),
            line_text: document.lines.shared_line(&document.text, node.offset),
            rule_index: (origin.document << 20) | origin.node.index(),
        })
    }

    pub(crate) fn model(&self, id: TypeId) -> Option<&Model> {
        let model = self.components.complex(id)?.model?;
        self.models.get(model.0 as usize)
    }

    pub(crate) fn check_of(&self, id: TypeId) -> Option<&TypeCheck> {
        self.checks.get(id.0 as usize)
    }
}
