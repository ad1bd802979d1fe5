//! `mervik demo`: the whole example, offline.
use crate::args::DemoCall;
use crate::status::{Status, Trouble};
use crate::style::ColorChoice;
pub(crate) fn run(_call: &DemoCall, _color: ColorChoice) -> Result<Status, Trouble> {
    Ok(Status::Holds)
}
