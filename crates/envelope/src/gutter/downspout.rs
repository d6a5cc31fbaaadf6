//! Outlets and downspouts: what an outlet takes at a head, what a pipe takes running part full; the smaller governs.
//!
//! Outlet by the drainage standard: a weir while shallow, an orifice when drowned. Pipe by Wyly and Eaton, at one third full
//! (the 7/24 school kept beside it). Millimetres in, litres per second out, as both are written.

use crate::rain::design::INCH_MM;
use serde::{Deserialize, Serialize};
use std::f64::consts::PI;

/// The bore of an outlet and its pipe.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "shape", rename_all = "snake_case")]
pub enum Bore {
    /// Round.
    Round {
        /// Across.
        diameter_mm: f64,
    },
    /// Rectangular.
    Rectangular {
        /// One side.
        width_mm: f64,
        /// The other.
        length_mm: f64,
    },
}

/// Input of `calc downspout`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DownspoutInput {
    /// The bore.
    #[serde(flatten)]
    pub bore: Bore,
    /// Depth of water over the outlet.
    pub head_at_outlet_mm: f64,
    /// A strainer lies over it.
    #[serde(default)]
    pub strainer: bool,
    /// Rain, mm/h.
    pub rain_mm_h: f64,
}

/// What an outlet takes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OutletFlow {
    /// As a weir.
    #[serde(rename = "weir_L_s")]
    pub weir_l_s: f64,
    /// As an orifice.
    #[serde(rename = "orifice_L_s")]
    pub orifice_l_s: f64,
    /// The smaller of the two.
    #[serde(rename = "Q_L_s")]
    pub q_l_s: f64,
    /// "weir" or "orifice".
    pub regime: String,
}

/// What a pipe takes, filled to a share of its area.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LeaderFlow {
    /// By the plumbing-code constant.
    #[serde(rename = "us_Q_L_s")]
    pub us_q_l_s: f64,
    /// By the drainage standard's constant.
    #[serde(rename = "en_kb025_Q_L_s")]
    pub en_kb025_q_l_s: f64,
    /// By the plumbing-code constant, US gallons per minute.
    #[serde(rename = "us_Q_gpm")]
    pub us_q_gpm: f64,
}

/// A downspout, worked out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Downspout {
    /// The outlet.
    pub outlet: OutletFlow,
    /// Area of the bore.
    pub bore_area_mm2: f64,
    /// Of the round pipe of equal area.
    pub equal_area_diameter_mm: f64,
    /// Filled to 7/24.
    pub leader_fill_7_24: LeaderFlow,
    /// Filled to 1/3.
    pub leader_fill_1_3: LeaderFlow,
    /// The smaller of outlet and pipe at 1/3.
    #[serde(rename = "governing_Q_L_s_fill_1_3")]
    pub governing_q_l_s_fill_1_3: f64,
    /// "outlet" or "pipe".
    pub governed_by: String,
    /// Roof it drains at this rain, on the plan.
    pub plan_area_served_m2: f64,
}

/// Litres per second in a US gallon per minute: 3.785411784 L / 60 s.
pub const L_S_PER_GPM: f64 = 3.785_411_784 / 60.0;
/// Wyly and Eaton: gpm from inches; and the drainage standard's form of it, L/s from mm, with its roughness 0.25 mm.
const LEADER_US: f64 = 27.8;
const LEADER_STANDARD: f64 = 2.5e-4;
const LEADER_STANDARD_ROUGHNESS_MM: f64 = 0.25;

impl Bore {
    fn area_mm2(self) -> f64 {
        match self {
            Bore::Round { diameter_mm } => PI * diameter_mm * diameter_mm / 4.0,
            Bore::Rectangular { width_mm, length_mm } => width_mm * length_mm,
        }
    }
    pub(super) fn round_mm(self) -> f64 {
        match self {
            Bore::Round { diameter_mm } => diameter_mm,
            b => (4.0 * b.area_mm2() / PI).sqrt(),
        }
    }
    /// As a weir and as an orifice at a head, L/s.
    pub(super) fn outlet(self, head_mm: f64, strainer: bool) -> (f64, f64) {
        let k = if strainer { 0.5 } else { 1.0 };
        let h = head_mm.max(0.0);
        match self {
            Bore::Round { diameter_mm: d } => (k * d * h.powf(1.5) / 7500.0, k * d * d * h.sqrt() / 15000.0),
            Bore::Rectangular { width_mm, length_mm } => {
                (k * 2.0 * (width_mm + length_mm) * h.powf(1.5) / 24000.0, k * self.area_mm2() * h.sqrt() / 12000.0)
            }
        }
    }
    /// What an outlet takes at a head, L/s.
    pub fn takes_l_s(self, head_mm: f64, strainer: bool) -> f64 {
        let (weir, orifice) = self.outlet(head_mm, strainer);
        weir.min(orifice)
    }
    /// The head an outlet needs for a flow, mm.
    pub fn head_mm(self, q_l_s: f64, strainer: bool) -> f64 {
        let (mut low, mut high) = (0.0, 10.0);
        while self.takes_l_s(high, strainer) < q_l_s && high < 1e6 {
            high *= 2.0;
        }
        for _ in 0..60 {
            let middle = (low + high) / 2.0;
            if self.takes_l_s(middle, strainer) < q_l_s { low = middle } else { high = middle }
        }
        high
    }
    /// What its pipe takes at one third full, L/s.
    pub fn pipe_l_s(self) -> f64 {
        leader(self.round_mm(), 1.0 / 3.0).us_q_l_s
    }
    /// Checks the sizes.
    ///
    /// # Errors
    /// What is wrong.
    pub fn check(self) -> Result<(), String> {
        let sizes = match self {
            Bore::Round { diameter_mm } => [diameter_mm, diameter_mm],
            Bore::Rectangular { width_mm, length_mm } => [width_mm, length_mm],
        };
        match sizes.iter().find(|s| !(5.0..=2000.0).contains(*s)) {
            Some(s) => Err(format!("An outlet of {s} mm cannot be. Type a size in millimetres from 5 to 2000, for example 75.")),
            None => Ok(()),
        }
    }
}

fn leader(d_mm: f64, fill: f64) -> LeaderFlow {
    let gpm = LEADER_US * fill.powf(5.0 / 3.0) * (d_mm / INCH_MM).powf(8.0 / 3.0);
    LeaderFlow {
        us_q_l_s: gpm * L_S_PER_GPM,
        en_kb025_q_l_s: LEADER_STANDARD * LEADER_STANDARD_ROUGHNESS_MM.powf(-1.0 / 6.0) * d_mm.powf(8.0 / 3.0) * fill.powf(5.0 / 3.0),
        us_q_gpm: gpm,
    }
}

/// Works a downspout out.
///
/// # Errors
/// What is wrong with which figure.
pub fn downspout(input: &DownspoutInput) -> Result<Downspout, String> {
    input.bore.check()?;
    if !(0.0..=2000.0).contains(&input.head_at_outlet_mm) {
        return Err(format!("A head of {} mm cannot be. Type millimetres from 0 to 2000.", input.head_at_outlet_mm));
    }
    if !(input.rain_mm_h > 0.0 && input.rain_mm_h <= 2000.0) {
        return Err(format!("Rain of {} mm/h cannot be. Type millimetres per hour, for example 120.", input.rain_mm_h));
    }
    let (weir, orifice) = input.bore.outlet(input.head_at_outlet_mm, input.strainer);
    let (outlet, d) = (weir.min(orifice), input.bore.round_mm());
    let third = leader(d, 1.0 / 3.0);
    let governing = outlet.min(third.us_q_l_s);
    Ok(Downspout {
        outlet: OutletFlow {
            weir_l_s: weir,
            orifice_l_s: orifice,
            q_l_s: outlet,
            regime: if weir <= orifice { "weir" } else { "orifice" }.into(),
        },
        bore_area_mm2: input.bore.area_mm2(),
        equal_area_diameter_mm: d,
        leader_fill_7_24: leader(d, 7.0 / 24.0),
        governed_by: if outlet <= third.us_q_l_s { "outlet" } else { "pipe" }.into(),
        leader_fill_1_3: third,
        governing_q_l_s_fill_1_3: governing,
        plan_area_served_m2: governing * 3600.0 / input.rain_mm_h,
    })
}
