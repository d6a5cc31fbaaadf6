//! The HTTP edge: parse, call, answer. Rules are in `envelope`, what follows from a job in `account`, keeping is in `ledger`, what
//! leaves is in `report` and `exchange`.

mod calc;
mod catalogue;
mod docs;
mod ground;
mod http;
mod items;
mod jobs;
mod keep;
mod leaving;
mod moisture;
mod notes;
mod out;
mod pictures;
mod practices;
mod rainwater;
mod roof;
mod state;

pub use docs::{bundle_schema, openapi};
pub use http::access::new_key;
pub use http::error::{ApiError, Code};
pub use http::slow::Patience;
pub use http::work::Work;
pub use state::{App, Limits};

use actix_web::middleware::from_fn;
use actix_web::{App as ActixApp, HttpServer, web};
use http::{access, assets, guard, slow};
use std::net::TcpListener;
use std::sync::Arc;
use tracing_actix_web::TracingLogger;
use utoipa_actix_web::service_config::ServiceConfig;

/// Every feature: each registers its routes, and thereby describes them.
fn features(cfg: &mut ServiceConfig<'_>) {
    cfg.configure(catalogue::configure)
        .configure(jobs::configure)
        .configure(notes::configure)
        .configure(walks::configure)
        .configure(items::configure)
        .configure(roof::configure)
        .configure(rainwater::configure)
        .configure(ground::configure)
        .configure(walls::configure)
        .configure(moisture::configure)
        .configure(trace::configure)
        .configure(storm::configure)
        .configure(practices::configure)
        .configure(pictures::configure)
        .configure(out::configure)
        .configure(years::configure)
        .configure(leaving::configure);
}

/// Routes, limits and error shapes. Tests build the application with the same function as the binary.
pub fn configure(app: Arc<App>) -> impl FnOnce(&mut web::ServiceConfig) + Clone {
    move |cfg: &mut web::ServiceConfig| {
        let json = web::JsonConfig::default().limit(app.limits.json_bytes).error_handler(|e, _| ApiError::from_json(e).into());
        let path = web::PathConfig::default().error_handler(|e, _| ApiError::from_address(&e).into());
        let query = web::QueryConfig::default().error_handler(|e, _| ApiError::from_address(&e).into());
        cfg.app_data(web::Data::from(app)).app_data(json).app_data(path).app_data(query);
        cfg.route("/enter", web::post().to(access::enter));
        cfg.configure(leaving::configure_open);
        cfg.service(
            web::scope("/api")
                .configure(docs::configure)
                .service(calc::calc)
                .configure(|cfg| features(&mut ServiceConfig::new(cfg)))
                .default_service(web::to(|| async { ApiError::new(Code::NotFound, "There is nothing at this address.").into_response() })),
        );
        cfg.default_service(web::get().to(assets::serve));
    }
}

/// Serves on an open listener until the process is told to stop; writes that were begun are finished.
///
/// # Errors
/// When the listener cannot be used.
pub async fn serve(app: Arc<App>, listener: TcpListener) -> std::io::Result<()> {
    HttpServer::new(move || {
        ActixApp::new()
            .wrap(from_fn(slow::paced))
            .wrap(from_fn(guard::same_origin))
            .wrap(from_fn(guard::headers))
            .wrap(TracingLogger::default())
            .configure(configure(app.clone()))
    })
    .shutdown_timeout(30)
    .listen(listener)?
    .run()
    .await
}

mod storm;
#[cfg(test)]
mod tests;
mod trace;
mod walks;
mod walls;
mod years;
