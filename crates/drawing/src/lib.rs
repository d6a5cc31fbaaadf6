//! Every picture that is made of lines, drawn once: the page, a file and print show the same one, and only the look differs.

mod cracks;
mod flat;
mod floor;
mod ground;
mod laps;
mod marks;
mod moisture;
mod palette;
mod rain;
mod roof;
mod storm;
mod svg;
mod trace;
mod wear;
mod wheel;
mod years;

pub use cracks::cracks_svg;
pub use flat::{FlatState, flat_hour_svg, flat_svg};
pub use floor::floor_svg;
pub use ground::{GroundOver, ground_svg, transect_svg};
pub use laps::laps_svg;
pub use marks::{mark_svg, marks_svg};
pub use moisture::{drying_svg, moisture_svg, rooms_svg, seen_from};
pub use palette::{Look, TONES, Tone, css_tones, tokens, typst_tones};
pub use rain::{flow_svg, section_svg};
pub use roof::{elevation_svg, in_twelve, life_svg, number, perimeter_svg, plan_svg};
pub use storm::{rates_svg, soft_wheel_svg, square_svg, storm_plan_svg};
pub use trace::{rain_svg, trace_plan_svg, trace_section_svg};
pub use wear::wear_svg;
pub use wheel::{places_svg, wheel_svg};
pub use years::reserve_svg;
