//! Descriptor sets: what a compiler made of `.proto` files.

use super::{Edition, File, Sources};
use crate::remark::{Remark, rule};
use mervik_document::{Place, Severity};
use prost_reflect::prost::Message as _;
use prost_reflect::{DescriptorPool, DynamicMessage, Value};

/// A file of a set: the name under which it is imported, what it imports, its descriptor, its edition.
type Waiting = (String, Vec<String>, Vec<u8>, Option<Edition>);

/// Reads a descriptor set into a pool.
pub(super) fn read(name: &str, bytes: &[u8], sources: &mut Sources) {
    let fault = |message: String, hint: Option<&str>| Remark {
        rule: rule::LINK.into(),
        severity: Severity::Error,
        source: name.into(),
        at: String::new(),
        place: Place { line: 1, column: 1 },
        line_text: "".into(),
        width: 1,
        message,
        hint: hint.map(str::to_owned),
    };
    let with_imports = "descriptor sets need their imports: compilers have an option that includes them";
    let Some(descriptor) = DescriptorPool::global().get_message_by_name("google.protobuf.FileDescriptorSet") else {
        return;
    };
    let set = match DynamicMessage::decode(descriptor, bytes) {
        Ok(set) => set,
        Err(error) => {
            sources.remarks.push(fault(format!("is no descriptor set: {error}"), None));
            return;
        }
    };
    let Some(Value::List(files)) = set.get_field_by_name("file").map(|files| files.into_owned()) else { return };
    let mut waiting: Vec<Waiting> = Vec::new();
    for file in files {
        let Value::Message(mut file) = file else { continue };
        let text = |file: &DynamicMessage, field: &str| match file.get_field_by_name(field).as_deref() {
            Some(Value::String(text)) => text.clone(),
            _ => String::new(),
        };
        let import = text(&file, "name");
        let needs = match file.get_field_by_name("dependency").as_deref() {
            Some(Value::List(needs)) => needs.iter().filter_map(|on| on.as_str().map(str::to_owned)).collect(),
            _ => Vec::new(),
        };
        let mut edition = None;
        if text(&file, "syntax") == "editions" {
            let number = match file.get_field_by_name("edition").as_deref() {
                Some(Value::EnumNumber(number)) => *number,
                _ => 0,
            };
            edition = Edition::numbered(number);
            if edition.is_none() {
                let message = format!("`{import}` is of an edition that is not read (number {number})");
                sources.remarks.push(fault(message, Some("editions 2023 and 2024 are read")));
                continue;
            }
            file.set_field_by_name("syntax", Value::String("proto2".to_owned()));
        }
        waiting.push((import, needs, file.encode_to_vec(), edition));
    }
    // A file comes after those that it imports; sets need not be in that order.
    while !waiting.is_empty() {
        let ready = waiting
            .iter()
            .position(|(_, needs, ..)| needs.iter().all(|on| sources.pool.get_file_by_name(on).is_some()));
        let Some(ready) = ready else {
            let missing = waiting.iter().flat_map(|(import, needs, ..)| needs.iter().map(move |on| (import, on)));
            let lacking = missing.filter(|(_, on)| {
                sources.pool.get_file_by_name(on).is_none() && !waiting.iter().any(|(import, ..)| import == *on)
            });
            let lacking: Vec<String> =
                lacking.map(|(import, on)| format!("`{import}` imports `{on}`, which is not in the set")).collect();
            let message = match lacking.is_empty() {
                true => "the files of the set import each other in a circle".to_owned(),
                false => lacking.join("; "),
            };
            sources.remarks.push(fault(message, Some(with_imports)));
            return;
        };
        let (import, _, bytes, edition) = waiting.swap_remove(ready);
        if let Err(error) = sources.pool.decode_file_descriptor_proto(bytes.as_slice()) {
            sources.remarks.push(fault(super::words::ours(&error.to_string()), None));
            return;
        }
        sources.files.insert(import.clone(), File::new(&format!("{name} ({import})"), String::new(), edition));
    }
}
