//! What comes in and goes out as files: bundles, tables, GeoJSON, DXF. Read in bounded pieces, written whole or not at all.

mod bundle;
mod findings_csv;
mod ground_files;
mod heat_file;
mod rain_file;
mod roof_files;
mod strip;
mod take_in;
mod years_files;

pub use bundle::{BUNDLE_VERSION, Bundle, BundleError, BundleItem, BundleLimits, Opened, open, pack};
pub use findings_csv::{CsvError, findings_csv};
pub use ground_files::{
    BadRow, Columns, FileUnit, ReadingsError, ReadingsFile, ground_geojson, read_readings_csv, read_readings_geojson, readings_csv,
};
pub use heat_file::{HeatCells, heat_grid, heat_png};
pub use rain_file::rain_file;
pub use roof_files::{GeoJsonError, read_roof_geojson, roof_dxf, roof_geojson};
pub use strip::{strip_metadata, upright_only};
pub use take_in::take_in;
pub use years_files::{reserve_csv, upkeep_ics};
