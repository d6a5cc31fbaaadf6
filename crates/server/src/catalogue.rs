//! What can be chosen: conditions, parts, kinds of visit, steps, reasons.

use actix_web::{get, web};
use envelope::finding::{Condition, Urgency, catalogue};
use envelope::job::VisitKind;
use envelope::measure::Units;
use envelope::round::{Component, vocabulary};
use envelope::site::{Face, ItemKind, LimitReason, Zone};
use serde::Serialize;
use utoipa::ToSchema;
use utoipa_actix_web::service_config::ServiceConfig;

pub(crate) fn configure(cfg: &mut ServiceConfig<'_>) {
    cfg.service(choices);
}

/// A choice with its name.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct Choosable<T> {
    /// What is sent.
    pub(crate) value: T,
    /// What is shown.
    pub(crate) name: String,
}

/// Everything that can be chosen.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct Choices {
    conditions: Vec<Condition>,
    components: Vec<Component>,
    visits: Vec<Choosable<VisitKind>>,
    urgencies: Vec<Choosable<Urgency>>,
    faces: Vec<Choosable<Face>>,
    zones: Vec<Choosable<Zone>>,
    limits: Vec<Choosable<LimitReason>>,
    items: Vec<Choosable<ItemKind>>,
    units: Vec<Choosable<Units>>,
}

const REASONS: [LimitReason; 12] = [
    LimitReason::Locked,
    LimitReason::TooSteep,
    LimitReason::Brittle,
    LimitReason::WetOrIcy,
    LimitReason::StoredGoods,
    LimitReason::Growth,
    LimitReason::Covered,
    LimitReason::NotYetBuilt,
    LimitReason::OtherOwner,
    LimitReason::Unsafe,
    LimitReason::Weather,
    LimitReason::Time,
];

/// Everything that can be chosen.
#[utoipa::path(tag = "choices", responses((status = 200, body = Choices)))]
#[get("/choices")]
pub(crate) async fn choices() -> web::Json<Choices> {
    fn all<T: Copy>(list: impl IntoIterator<Item = T>, name: impl Fn(T) -> &'static str) -> Vec<Choosable<T>> {
        list.into_iter().map(|value| Choosable { value, name: name(value).to_owned() }).collect()
    }
    web::Json(Choices {
        conditions: catalogue().rows().to_vec(),
        components: vocabulary().components().to_vec(),
        visits: all(VisitKind::ALL, VisitKind::name),
        urgencies: all(Urgency::ALL, Urgency::words),
        faces: all(Face::ALL, Face::name),
        zones: all(Zone::OUTSIDE.into_iter().chain([Zone::Inside]), Zone::name),
        limits: all(REASONS, LimitReason::sentence),
        items: all(ItemKind::ALL, ItemKind::name),
        units: all(Units::ALL, Units::name),
    })
}
