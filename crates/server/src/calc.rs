//! Calculations over HTTP: the same JSON as on the command line. The list is `envelope::calc`'s; nothing is written twice.

use crate::http::{Code, body};
use crate::{ApiError, App};
use actix_web::{HttpResponse, post, web};
use utoipa::openapi::content::ContentBuilder;
use utoipa::openapi::path::{HttpMethod, OperationBuilder, PathItemBuilder};
use utoipa::openapi::request_body::RequestBodyBuilder;
use utoipa::openapi::{OpenApi, Ref, ResponseBuilder};

/// One handler for all of them: off the threads that answer, so many at once, and given up when it takes too long.
#[post("/calc/{name}")]
pub(crate) async fn calc(app: web::Data<App>, name: web::Path<String>, payload: web::Payload) -> Result<HttpResponse, ApiError> {
    let input = body::small(payload, app.limits.json_bytes, "input").await?;
    let json = String::from_utf8(input).map_err(|_| ApiError::new(Code::BadRequest, "The input is not UTF-8 text. Send it as JSON."))?;
    let answer = app.work.heavy(move |_| Ok(envelope::calc::run(&name, &json)?)).await?;
    Ok(HttpResponse::Ok().content_type("application/json").body(answer))
}

/// Writes every calculation into the description.
pub(crate) fn describe(api: &mut OpenApi) {
    let of = |name: &str| ContentBuilder::new().schema(Some(Ref::from_schema_name(name))).build();
    for c in envelope::calc::CALCS {
        let forms = (c.describe)();
        let body = RequestBodyBuilder::new().content("application/json", of(&forms.input)).required(Some(utoipa::openapi::Required::True));
        let said = |why: &str, form: &str| ResponseBuilder::new().description(why).content("application/json", of(form)).build();
        let operation = OperationBuilder::new()
            .tag("calc")
            .operation_id(Some(c.name.replace('-', "_")))
            .summary(Some(c.about))
            .request_body(Some(body.build()))
            .response("200", said("", &forms.output))
            .response("413", said("", "ApiError"))
            .response("422", said("", "ApiError"))
            .response("503", said("", "ApiError"))
            .build();
        api.paths.paths.insert(format!("/calc/{}", c.name), PathItemBuilder::new().operation(HttpMethod::Post, operation).build());
        api.components.get_or_insert_default().schemas.extend(forms.schemas);
    }
}
