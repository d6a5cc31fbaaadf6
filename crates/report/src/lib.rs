//! What leaves the building: the report as PDF, the findings as CSV, the whole job as a bundle.
//!
//! [`JobView`] is the one account of a job, worked out by `envelope`; the screen and the report both show it, so they
//! cannot disagree. Nothing here asks for the time, a file or the network: all of that comes as an argument.

mod bundle;
mod document;
mod findings_csv;
mod ground_files;
mod ground_report;
mod ground_svg;
mod marks_svg;
mod rain_report;
mod rain_svg;
mod roof_files;
mod roof_report;
mod roof_svg;
mod strip;
mod svg;
mod view;
mod wear_svg;
mod wheel_svg;
mod world;

pub use bundle::{BUNDLE_VERSION, Bundle, BundleError, BundleItem, BundleLimits, Unpacked, pack, unpack};
pub use document::{Made, PictureSource, ReportError, Typeset, typeset};
pub use findings_csv::{CsvError, findings_csv};
pub use ground_files::{
    BadRow, Columns, FileUnit, ReadingsError, ReadingsFile, ground_geojson, read_readings_csv, read_readings_geojson, readings_csv,
};
pub use ground_svg::{GroundOver, ground_svg, transect_svg};
pub use rain_svg::{flow_svg, section_svg};
pub use roof_files::{GeoJsonError, read_roof_geojson, roof_dxf, roof_geojson};
pub use roof_svg::{elevation_svg, life_svg, perimeter_svg, plan_svg};
pub use strip::{strip_metadata, upright_only};
pub use svg::Look;
pub use view::{Bundled, Closing, JobView, LeftFrom, Progress, Wanted, view};
pub use wear_svg::wear_svg;
