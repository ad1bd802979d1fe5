//! A pair made smaller as long as it shows the same.

use crate::tree::Json;

/// So many smaller pairs are tried.
const MAX_TRIES: usize = 400;

/// The smallest schema and document for which `shows` still holds, by taking parts away one after the other.
pub(super) fn shrunk(schema: &Json, document: &Json, shows: &dyn Fn(&Json, &Json) -> bool) -> (Json, Json) {
    let (mut schema, mut document) = (schema.clone(), document.clone());
    let mut tries = 0;
    loop {
        let smaller_schema = smaller(&schema).into_iter().find(|one| {
            tries += 1;
            tries < MAX_TRIES && shows(one, &document)
        });
        if let Some(one) = smaller_schema {
            schema = one;
            continue;
        }
        let smaller_document = smaller(&document).into_iter().find(|one| {
            tries += 1;
            tries < MAX_TRIES && shows(&schema, one)
        });
        match smaller_document {
            Some(one) => document = one,
            None => return (schema, document),
        }
    }
}

/// Values with one part less.
fn smaller(value: &Json) -> Vec<Json> {
    let mut found = Vec::new();
    match value {
        Json::Object(members) => {
            for at in 0..members.len() {
                let mut fewer = members.clone();
                fewer.remove(at);
                found.push(Json::Object(fewer));
            }
            for (at, (name, value)) in members.iter().enumerate() {
                for one in smaller(value) {
                    let mut changed = members.clone();
                    if let Some(member) = changed.get_mut(at) {
                        *member = (name.clone(), one);
                    }
                    found.push(Json::Object(changed));
                }
            }
        }
        Json::Array(items) => {
            for at in 0..items.len() {
                let mut fewer = items.clone();
                fewer.remove(at);
                found.push(Json::Array(fewer));
            }
            for (at, item) in items.iter().enumerate() {
                for one in smaller(item) {
                    let mut changed = items.clone();
                    if let Some(member) = changed.get_mut(at) {
                        *member = one;
                    }
                    found.push(Json::Array(changed));
                }
            }
        }
        Json::Number(_, text) if text != "1" => found.push(Json::number("1")),
        Json::Text(text) if text.len() > 1 && !text.contains(['#', '/', ':']) => found.push(Json::text("a")),
        _ => {}
    }
    found
}
