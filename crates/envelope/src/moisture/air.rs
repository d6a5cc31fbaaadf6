//! Air and surfaces: when water comes out of the air, and what wood reads in it.
//!
//! Saturation pressure by the Magnus form with the constants of Alduchov and Eskridge (1996), over water and over ice; the moisture wood
//! takes up in air by the sorption formula of the Wood Handbook (Forest Products Laboratory).

use crate::measure::Units;
use serde::{Deserialize, Serialize};

/// Pressure of the standard atmosphere, Pa.
const STANDARD_PA: f64 = 101_325.0;
const MAGNUS_PA: f64 = 610.94;
const MAGNUS_A: f64 = 17.625;
const MAGNUS_B_C: f64 = 243.04;
/// The same over ice.
const ICE_PA: f64 = 611.21;
const ICE_A: f64 = 22.587;
const ICE_B_C: f64 = 273.86;
/// Weight of water vapour against dry air.
const VAPOUR_TO_AIR: f64 = 0.622;
/// Inside and outside must differ by so much for a temperature factor, K.
const FACTOR_LEAST_K: f64 = 0.5;
/// Temperatures that air, walls and meters have, °C.
const COLDEST_C: f64 = -50.0;
const HOTTEST_C: f64 = 80.0;

/// Input of `air`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct AirInput {
    /// Temperature of the air, °C.
    pub t_c: f64,
    /// Relative humidity, %.
    pub rh_pct: f64,
    /// Temperature of a surface in it, °C.
    #[serde(default)]
    pub surface_c: Option<f64>,
    /// Temperature outside, °C.
    #[serde(default)]
    pub out_c: Option<f64>,
    /// Air pressure, Pa; the standard atmosphere where nothing is said.
    #[serde(default)]
    pub pressure_pa: Option<f64>,
}

/// What the air does.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Air {
    /// Where its water comes out, °C; none in air without any water.
    pub dew_point_c: Option<f64>,
    /// Pressure of its vapour, Pa.
    pub vapour_pa: f64,
    /// Water in it, grams for each kilogram of dry air.
    pub mixing_g_kg: f64,
    /// Relative humidity of the air at the surface, %, against what it can hold, over ice below freezing: over 100 water comes out.
    pub surface_rh_pct: Option<f64>,
    /// Whether water comes out on the surface, as dew or as frost.
    pub condenses: Option<bool>,
    /// Whether it comes out as frost: the surface is below freezing, where less vapour is enough.
    pub frost: Option<bool>,
    /// How far the surface keeps up with the inside: (surface - outside) / (inside - outside).
    pub f_rsi: Option<f64>,
    /// The temperature outside from which this surface begins to condense with this air inside, °C.
    pub condenses_below_out_c: Option<f64>,
    /// What wood comes to in this air, %.
    pub wood_emc_pct: f64,
}

/// Why air or wood gives no figure.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{0}")]
pub struct AirError(pub(super) String);

/// Saturation pressure over water, Pa, at °C.
#[must_use]
pub fn saturation_pa(t_c: f64) -> f64 {
    MAGNUS_PA * libm::exp(MAGNUS_A * t_c / (t_c + MAGNUS_B_C))
}

/// Saturation pressure over ice, Pa, at °C.
#[must_use]
pub fn saturation_over_ice_pa(t_c: f64) -> f64 {
    ICE_PA * libm::exp(ICE_A * t_c / (t_c + ICE_B_C))
}

/// The most vapour that air at a surface can hold, Pa: the less of what ice and what water lets it. Below freezing that is ice; the two forms
/// meet at -0.04 °C.
#[must_use]
pub fn surface_holds_pa(t_c: f64) -> f64 {
    saturation_over_ice_pa(t_c).min(saturation_pa(t_c))
}

/// The warmest surface on which vapour of this pressure (Pa) comes out, as dew or as frost, °C. None without any.
#[must_use]
pub fn comes_out_below_c(vapour_pa: f64) -> Option<f64> {
    let dew = dew_point_c(vapour_pa)?;
    let l = libm::log(vapour_pa / ICE_PA);
    Some(dew.max(ICE_B_C * l / (ICE_A - l)))
}

/// Where vapour of this pressure (Pa) comes out, °C. None without any.
#[must_use]
pub fn dew_point_c(vapour_pa: f64) -> Option<f64> {
    (vapour_pa > 0.0).then(|| {
        let l = libm::log(vapour_pa / MAGNUS_PA);
        MAGNUS_B_C * l / (MAGNUS_A - l)
    })
}

/// What wood comes to in air of this temperature (°C) and humidity (%), in per cent of its dry weight.
#[must_use]
pub fn wood_equilibrium_pct(t_c: f64, rh_pct: f64) -> f64 {
    let (t, h) = (t_c, rh_pct / 100.0);
    let w = 349.0 + 1.29 * t + 0.0135 * t * t;
    let k = 0.805 + 0.000_736 * t - 0.000_002_73 * t * t;
    let k1 = 6.27 - 0.009_38 * t - 0.000_303 * t * t;
    let k2 = 1.91 + 0.0407 * t - 0.000_293 * t * t;
    let kh = k * h;
    1800.0 / w * (kh / (1.0 - kh) + (k1 * kh + 2.0 * k1 * k2 * kh * kh) / (1.0 + k1 * kh + k1 * k2 * kh * kh))
}

pub(super) fn temperature(what: &str, t: f64) -> Result<f64, AirError> {
    if (COLDEST_C..=HOTTEST_C).contains(&t) {
        Ok(t)
    } else {
        let [low, high] = [COLDEST_C, HOTTEST_C].map(|t| Units::MetricUs.temperature(t, 0));
        Err(AirError(format!(
            "{what} of {} is not found on a building: it lies between {low} and {high}. Was it in another unit?",
            Units::MetricUs.temperature(t, 1)
        )))
    }
}

/// Works out what air does.
///
/// # Errors
/// [`AirError`] when a figure cannot be.
pub fn air(i: &AirInput) -> Result<Air, AirError> {
    let t = temperature("An air temperature", i.t_c)?;
    if !(0.0..=100.0).contains(&i.rh_pct) {
        return Err(AirError(format!("A relative humidity of {} % cannot be: it lies between 0 and 100.", i.rh_pct)));
    }
    let p = i.pressure_pa.unwrap_or(STANDARD_PA);
    if !(50_000.0..=110_000.0).contains(&p) {
        return Err(AirError(format!("An air pressure of {p} Pa is not found where people live; type it in pascal, about 101325.")));
    }
    let surface = i.surface_c.map(|s| temperature("A surface temperature", s)).transpose()?;
    let out = i.out_c.map(|s| temperature("An outside temperature", s)).transpose()?;
    let e = saturation_pa(t) * i.rh_pct / 100.0;
    if e >= p {
        return Err(AirError(
            "The vapour alone would have more than the pressure of the air; look at temperature and pressure again.".into(),
        ));
    }
    let dew = dew_point_c(e);
    let condenses = surface.map(|s| e > surface_holds_pa(s));
    let f = surface.zip(out).filter(|(_, o)| (t - o).abs() >= FACTOR_LEAST_K).map(|(s, o)| (s - o) / (t - o));
    Ok(Air {
        dew_point_c: dew,
        vapour_pa: e,
        mixing_g_kg: 1000.0 * VAPOUR_TO_AIR * e / (p - e),
        surface_rh_pct: surface.map(|s| 100.0 * e / surface_holds_pa(s)),
        condenses,
        frost: surface.zip(condenses).map(|(s, out)| out && s < 0.0),
        f_rsi: f,
        condenses_below_out_c: f.filter(|f| *f < 1.0 - 1e-9).zip(comes_out_below_c(e)).map(|(f, d)| (d - f * t) / (1.0 - f)),
        wood_emc_pct: wood_equilibrium_pct(t, i.rh_pct),
    })
}

/// Input of `wood-reading`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WoodInput {
    /// What the pins show, %.
    pub reading_pct: f64,
    /// Temperature of the wood, °C.
    pub t_c: f64,
    /// Slope of the species line; one where nothing is said.
    #[serde(default)]
    pub a: Option<f64>,
    /// Its start; nought where nothing is said.
    #[serde(default)]
    pub b: Option<f64>,
}

/// A reading of pins, put right.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Wood {
    /// For the wood's temperature, before the species, %.
    pub at_temperature_pct: f64,
    /// For temperature and species, %.
    pub corrected_pct: f64,
}

/// Corrects what pins show for the wood's temperature and its species, for a meter calibrated on Douglas-fir at room temperature.
///
/// Source: the temperature correction of pin meters (Pfaff and Garrahan, 1984); the species line is (MC - b) / a.
///
/// # Errors
/// [`AirError`] when a figure cannot be.
pub fn wood_reading(i: &WoodInput) -> Result<Wood, AirError> {
    let t = temperature("A wood temperature", i.t_c)?;
    if !(0.0..=200.0).contains(&i.reading_pct) {
        return Err(AirError(format!("Pins do not show {} %. Type what the meter shows, in per cent.", i.reading_pct)));
    }
    let (a, b) = (i.a.unwrap_or(1.0), i.b.unwrap_or(0.0));
    if !(a.is_finite() && b.is_finite() && a > 0.0) {
        return Err(AirError("The slope of a species line is more than nought.".into()));
    }
    let mc = (i.reading_pct + 0.567 - 0.0260 * t + 0.000_051 * t * t) / (0.881 * libm::pow(1.0056, t));
    Ok(Wood { at_temperature_pct: mc, corrected_pct: (mc - b) / a })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn of(t_c: f64, rh_pct: f64) -> AirInput {
        AirInput { t_c, rh_pct, surface_c: None, out_c: None, pressure_pa: None }
    }

    #[test]
    fn what_any_table_says() {
        let a = air(&of(20.0, 50.0)).unwrap();
        assert!((a.dew_point_c.unwrap() - 9.27).abs() < 0.03, "{a:?}");
        assert!((a.mixing_g_kg - 7.26).abs() < 0.05, "{a:?}");
        // Wood Handbook, table of equilibrium moisture: 21.1 °C, 50 % gives 9.2 %; 80 % gives 16.0 %.
        assert!((wood_equilibrium_pct(21.1, 50.0) - 9.2).abs() < 0.1);
        assert!((wood_equilibrium_pct(21.1, 80.0) - 16.0).abs() < 0.15);
    }

    /// Over ice the air at a surface holds less: 46 % at 0 °C is 281 Pa, and a surface of -10 °C holds about 260.
    #[test]
    fn frost_comes_before_dew() {
        let a = air(&AirInput { surface_c: Some(-10.0), ..of(0.0, 46.0) }).unwrap();
        assert!((a.vapour_pa - 281.0).abs() < 0.5 && (saturation_over_ice_pa(-10.0) - 259.9).abs() < 0.3, "{a:?}");
        assert_eq!((a.condenses, a.frost), (Some(true), Some(true)));
        assert!(a.dew_point_c.unwrap() < -10.0, "over water it would not");
        let warm = air(&AirInput { surface_c: Some(5.0), ..of(20.0, 50.0) }).unwrap();
        assert_eq!((warm.condenses, warm.frost), (Some(true), Some(false)));
    }

    #[test]
    fn what_cannot_be_is_refused() {
        for bad in [of(20.0, 101.0), of(20.0, -1.0), of(200.0, 50.0), of(f64::NAN, 50.0), of(20.0, f64::NAN)] {
            assert!(air(&bad).is_err(), "{bad:?}");
        }
        assert!(air(&AirInput { pressure_pa: Some(1013.0), ..of(20.0, 50.0) }).is_err(), "hectopascal typed as pascal");
        assert!(wood_reading(&WoodInput { reading_pct: 20.0, t_c: 20.0, a: Some(0.0), b: None }).is_err());
        assert_eq!(air(&of(20.0, 0.0)).unwrap().dew_point_c, None, "air without water has no dew point");
    }

    proptest! {
        /// The dew point inverts saturation, is never above the air, and a surface just under it condenses while one over it does not.
        #[test]
        fn the_dew_point_inverts_saturation(t in -10.0..45.0_f64, rh in 5.0..100.0_f64) {
            let a = air(&of(t, rh)).unwrap();
            let dew = a.dew_point_c.unwrap();
            prop_assert!((saturation_pa(dew) - a.vapour_pa).abs() < 1e-6 * a.vapour_pa);
            prop_assert!(dew <= t + 1e-9);
            let begins = comes_out_below_c(a.vapour_pa).unwrap();
            prop_assert!(begins >= dew - 1e-9, "over ice less vapour is enough");
            for (off, wet) in [(-0.02, true), (0.02, false)] {
                let s = air(&AirInput { surface_c: Some(begins + off), ..of(t, rh) }).unwrap();
                prop_assert_eq!(s.condenses, Some(wet));
                prop_assert_eq!(s.frost, Some(wet && begins + off < 0.0));
                prop_assert_eq!(s.surface_rh_pct.unwrap() > 100.0, wet);
            }
        }

        /// With the outside at the temperature that is named, the surface stands just at the dew point.
        #[test]
        fn the_outside_at_which_it_begins(t in 15.0..25.0_f64, rh in 20.0..80.0_f64, out in -15.0..10.0_f64, f in 0.2..0.95_f64) {
            let a = air(&AirInput { surface_c: Some(out + f * (t - out)), out_c: Some(out), ..of(t, rh) }).unwrap();
            let begins = a.condenses_below_out_c.unwrap();
            prop_assert!((begins + f * (t - begins) - comes_out_below_c(a.vapour_pa).unwrap()).abs() < 1e-6);
        }

        /// Wood takes up more in damper air, and nothing in air without water.
        #[test]
        fn damper_air_damper_wood(t in 0.0..40.0_f64, rh in 0.0..95.0_f64) {
            prop_assert!(wood_equilibrium_pct(t, rh + 1.0) > wood_equilibrium_pct(t, rh));
            prop_assert_eq!(wood_equilibrium_pct(t, 0.0), 0.0);
        }
    }
}
