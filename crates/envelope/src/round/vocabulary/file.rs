//! The vocabulary as its file says it.

use super::Component;
use crate::site::{Face, LimitReason, Zone};
use serde::Deserialize;
use std::collections::HashMap;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Words {
    pub(super) id: String,
    pub(super) components: Vec<String>,
    pub(super) states: Vec<String>,
    pub(super) phrases: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Alone {
    pub(super) words: Vec<String>,
    pub(super) id: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Talk {
    pub(super) moving: Vec<String>,
    pub(super) next_face: Vec<String>,
    pub(super) drop: Vec<String>,
    pub(super) replace: Vec<String>,
    pub(super) elsewhere_place: Vec<String>,
    pub(super) general: Vec<String>,
    pub(super) elsewhere: Vec<String>,
    pub(super) conditional: Vec<String>,
    pub(super) pointing: Vec<String>,
    pub(super) again: Vec<String>,
    pub(super) recommend: Vec<String>,
    pub(super) breaks: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Listed {
    pub(super) words: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct SideTrade {
    pub(super) trade: String,
    pub(super) words: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct HeardRow {
    pub(super) said: Vec<String>,
    pub(super) meant: String,
    #[serde(default)]
    pub(super) near: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct General {
    pub(super) praise: Vec<String>,
    pub(super) negation: Vec<String>,
    pub(super) station: Vec<String>,
    pub(super) inside_components: Vec<String>,
    pub(super) bad_states: Vec<String>,
    pub(super) filler: Vec<String>,
    pub(super) weak_states: Vec<String>,
    pub(super) tools: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct File {
    pub(super) component: Vec<Component>,
    pub(super) words: Vec<Words>,
    pub(super) alone: Vec<Alone>,
    pub(super) faces: HashMap<Face, Vec<String>>,
    pub(super) zones: HashMap<Zone, Vec<String>>,
    pub(super) extents: HashMap<String, Vec<String>>,
    pub(super) certainties: HashMap<String, Vec<String>>,
    pub(super) general: General,
    pub(super) talk: Talk,
    pub(super) limits: HashMap<LimitReason, Vec<String>>,
    pub(super) unseen: Listed,
    pub(super) side: Vec<SideTrade>,
    pub(super) rooms: Listed,
    pub(super) heard: Vec<HeardRow>,
    pub(super) part_zones: HashMap<Zone, Vec<String>>,
    pub(super) coverings: HashMap<String, Vec<String>>,
}
