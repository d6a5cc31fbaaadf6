//! One gutter with rain coming in evenly and a free drop at its end: how deep the water stands, and when it reaches the brim.

use super::section::Section;
use super::surface::{Reach, Surface};
use serde::{Deserialize, Serialize};

/// Input of `calc gutter`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ChannelInput {
    /// The cross-section.
    #[serde(flatten)]
    pub section: Section,
    /// From the closed end to the outlet, metres.
    pub length_m: f64,
    /// Fall toward the outlet, metres in a metre; negative where it falls back.
    pub slope: f64,
    /// Manning's roughness.
    pub manning_n: f64,
    /// Width of roof that drains to each metre, on the plan.
    pub catchment_width_m: f64,
    /// Rain, mm/h.
    pub rain_mm_h: f64,
}

/// A place of the surface.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Depth {
    /// From the closed end, metres.
    pub x_m: f64,
    /// Depth, metres.
    pub y_m: f64,
}

/// A gutter, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Channel {
    /// Water coming in at each metre, m²/s.
    pub lateral_inflow_m2_s: f64,
    /// All of it at the outlet.
    #[serde(rename = "Q_outlet_L_s")]
    pub q_outlet_l_s: f64,
    /// Critical depth there.
    pub yc_outlet_m: f64,
    /// What holds the water: "critical depth at the outfall" or "interior critical section".
    pub control: String,
    /// Where.
    pub control_x_m: f64,
    /// Depth at the closed end.
    pub y_upstream_m: f64,
    /// Greatest depth.
    pub y_max_m: f64,
    /// Where.
    pub x_of_y_max_m: f64,
    /// Depth at the outlet.
    pub y_outlet_m: f64,
    /// It spills.
    pub overtops: bool,
    /// Depths at 0, 1/4, 1/2, 3/4 and 9/10 of the length.
    pub profile: Vec<Depth>,
    /// Inflow at which the deepest place reaches the rim, m²/s.
    pub capacity_inflow_m2_s: f64,
    /// The same at the outlet.
    #[serde(rename = "capacity_Q_L_s")]
    pub capacity_q_l_s: f64,
    /// Roof it drains at 100 mm/h, on the plan.
    pub capacity_plan_area_m2_at_100_mm_h: f64,
    /// What holds the water then.
    pub capacity_control: String,
    /// Depth at the closed end then.
    pub capacity_y_upstream_m: f64,
    /// Eaves-gutter standard, level, short: a cautious look-up.
    #[serde(rename = "en12056_nominal_Q_L_s")]
    pub en12056_nominal_q_l_s: f64,
    /// The same with its safety factor.
    #[serde(rename = "en12056_design_Q_L_s")]
    pub en12056_design_q_l_s: f64,
    /// Area to the rim.
    pub full_area_mm2: f64,
    /// Uniform flow brim-full, when it falls toward its outlet.
    #[serde(rename = "manning_full_Q_L_s", skip_serializing_if = "Option::is_none")]
    pub manning_full_q_l_s: Option<f64>,
    /// A level rectangle without friction, in closed form: √3 times the critical depth at the closed end.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub closed_form_frictionless_y_up_m: Option<f64>,
    /// The same brim-full.
    #[serde(rename = "closed_form_frictionless_capacity_Q_L_s", skip_serializing_if = "Option::is_none")]
    pub closed_form_frictionless_capacity_q_l_s: Option<f64>,
}

/// The standard's factor for half-round and other gutters, L/s from mm², and its safety factor.
const STANDARD_HALF_ROUND: f64 = 2.78e-5;
const STANDARD_OTHER: f64 = 3.48e-5;
const STANDARD_DESIGN: f64 = 0.9;

/// Capacity by the eaves-gutter standard, nominal, L/s.
pub fn standard_capacity_l_s(section: Section) -> f64 {
    let k = if matches!(section, Section::HalfRound { .. }) { STANDARD_HALF_ROUND } else { STANDARD_OTHER };
    k * section.full_area_mm2().powf(1.25)
}

fn solve(input: &ChannelInput, q: f64) -> Surface {
    Reach {
        section: input.section,
        length: input.length_m,
        n: input.manning_n,
        fall: &|_| input.slope,
        inflow: &|_| q,
        flow: &|x| q * x,
        head: 0.0,
    }
    .surface()
}

fn control(s: &Surface, length: f64) -> (String, f64) {
    match s.interior {
        Some(x) => ("interior critical section".into(), x),
        None => ("critical depth at the outfall".into(), length),
    }
}

/// Works a gutter out.
///
/// # Errors
/// What is wrong with which figure.
pub fn channel(input: &ChannelInput) -> Result<Channel, String> {
    input.section.check()?;
    let within = |what: &str, v: f64, least: f64, most: f64| {
        if (least..=most).contains(&v) { Ok(()) } else { Err(format!("{what} cannot be {v}. Type a figure from {least} to {most}.")) }
    };
    within("The length in metres", input.length_m, 0.05, 500.0)?;
    within("The fall in metres per metre", input.slope, -0.2, 1.0)?;
    within("The roughness", input.manning_n, 0.0, 0.2)?;
    within("The width of roof in metres", input.catchment_width_m, 0.0, 1000.0)?;
    within("The rain in mm/h", input.rain_mm_h, 0.0, 2000.0)?;
    let (section, length) = (input.section, input.length_m);
    let depth = section.depth();
    if input.slope < 0.0 && -input.slope * length > depth {
        return Err(format!(
            "It falls back {:.0} mm over its length, more than its depth of {:.0} mm: no water reaches the outlet. Check the levels.",
            -input.slope * length * 1000.0,
            depth * 1000.0
        ));
    }
    let q = input.catchment_width_m * input.rain_mm_h / 3.6e6;
    let s = solve(input, q);
    let (x_max, y_max) = s.deepest();
    let (held, control_x_m) = control(&s, length);
    // More rain never means less depth, so the brim is found by halving.
    let (mut low, mut high) = (0.0, q.max(1e-6));
    while solve(input, high).deepest().1 < depth {
        low = high;
        high *= 2.0;
    }
    for _ in 0..40 {
        let middle = (low + high) / 2.0;
        if solve(input, middle).deepest().1 < depth { low = middle } else { high = middle }
    }
    let brim = solve(input, high);
    let nominal = standard_capacity_l_s(section);
    let full = section.wet(depth);
    let closed = match section {
        Section::Rect { width_m, depth_m } if input.slope == 0.0 => {
            Some((3.0_f64.sqrt() * section.critical(q * length), width_m * (super::G * (depth_m / 3.0_f64.sqrt()).powi(3)).sqrt() * 1000.0))
        }
        _ => None,
    };
    Ok(Channel {
        lateral_inflow_m2_s: q,
        q_outlet_l_s: q * length * 1000.0,
        yc_outlet_m: section.critical(q * length),
        control: held,
        control_x_m,
        y_upstream_m: s.y[0],
        y_max_m: y_max,
        x_of_y_max_m: x_max,
        y_outlet_m: s.y[s.y.len() - 1],
        overtops: y_max > depth,
        profile: [0.0, 0.25, 0.5, 0.75, 0.9].map(|k| Depth { x_m: k * length, y_m: s.at(k * length) }).to_vec(),
        capacity_inflow_m2_s: high,
        capacity_q_l_s: high * length * 1000.0,
        capacity_plan_area_m2_at_100_mm_h: high * length * 3.6e6 / 100.0,
        capacity_control: control(&brim, length).0,
        capacity_y_upstream_m: brim.y[0],
        en12056_nominal_q_l_s: nominal,
        en12056_design_q_l_s: nominal * STANDARD_DESIGN,
        full_area_mm2: section.full_area_mm2(),
        manning_full_q_l_s: (input.slope > 0.0 && input.manning_n > 0.0)
            .then(|| full.0 * (full.0 / full.1).powf(2.0 / 3.0) * input.slope.sqrt() / input.manning_n * 1000.0),
        closed_form_frictionless_y_up_m: closed.map(|c| c.0),
        closed_form_frictionless_capacity_q_l_s: closed.map(|c| c.1),
    })
}
