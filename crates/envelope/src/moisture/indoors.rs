//! The air of rooms, attic and crawl space: what each reading does, what they say together, and whether what is wet is rain or room.

use super::account::MoistureInput;
use super::air::{AirInput, air, comes_out_below_c, wood_equilibrium_pct};
use super::figures::{AirAccount, SurfaceMap};
use super::map::Class;
use super::record::{AirPlace, AirRecord, Moisture, Scale};
use crate::practice::Practice;
use jiff::civil::Date;

/// Air that holds so much more than other air gives it water, g/kg.
const MORE_WATER_G_KG: f64 = 0.5;

/// Wood that reads so much over what the air gives it has other water, points of per cent.
const OVER_AIR_PCT: f64 = 4.0;

/// At or under freezing mould does not grow, °C. Source: Hukka and Viitanen, A mathematical model of mould growth on wooden material (1999).
const MOULD_FROM_C: f64 = 0.0;

/// A temperature factor from which a surface keeps warm enough: rule of practice for dwellings.
const WARM_FACTOR: f64 = 0.7;

fn air_name(a: &AirRecord, of: &Moisture) -> String {
    match a.place {
        AirPlace::Outside => "Outside".into(),
        AirPlace::Attic => "Attic".into(),
        AirPlace::Crawl => "Crawl space".into(),
        AirPlace::Room => of
            .rooms
            .iter()
            .find(|r| r.id == a.room)
            .map_or_else(|| if a.room.trim().is_empty() { "Room".to_owned() } else { a.room.clone() }, |r| r.name.clone()),
    }
}

/// The humidity at a surface from which mould can grow, %, under the practice.
fn mould_pct(p: &Practice) -> f64 {
    p.rule("mould-humidity").figure() * 100.0
}

/// What was read of the air at such a place on a day.
fn read(of: &Moisture, place: AirPlace, on: Date) -> impl Iterator<Item = &AirRecord> {
    of.air.iter().filter(move |a| a.place == place && a.on == on)
}

pub(super) fn airs(i: &MoistureInput) -> (Vec<AirAccount>, Vec<String>) {
    let of = &i.moisture;
    let (mould, u) = (mould_pct(&i.practice), i.practice.units);
    // Outside it is as cold as it was at its coldest that day: that is when water comes out on a surface.
    let outside = |on: Date| read(of, AirPlace::Outside, on).min_by(|a, b| a.t_c.total_cmp(&b.t_c).then(a.rh_pct.total_cmp(&b.rh_pct)));
    let worked = |a: &AirRecord| {
        let out_c = outside(a.on).filter(|_| a.place != AirPlace::Outside).map(|o| o.t_c);
        air(&AirInput { t_c: a.t_c, rh_pct: a.rh_pct, surface_c: a.surface_c, out_c, pressure_pa: None })
    };
    let mut accounts = Vec::new();
    let mut says = Vec::new();
    for a in &of.air {
        let Ok(w) = worked(a) else { continue };
        let name = air_name(a, of);
        // Under freezing it comes out as frost, on a surface that dew would still leave dry: that point is the one that counts.
        let frost = comes_out_below_c(w.vapour_pa)
            .filter(|p| *p < 0.0)
            .map_or_else(String::new, |p| format!(", frost point {}", u.temperature(p, 1)));
        let dew = w.dew_point_c.map_or_else(|| "Air without water.".to_owned(), |d| format!("Dew point {}{frost}.", u.temperature(d, 1)));
        let (surface, wrong) = match (w.condenses, w.surface_rh_pct) {
            (Some(true), _) if w.frost == Some(true) => {
                (" Frost forms on the surface, and wets what is below when it thaws.".to_owned(), true)
            }
            (Some(true), _) => (" Water comes out on the surface.".to_owned(), true),
            (_, Some(rh)) if rh >= mould && a.surface_c.is_some_and(|s| s > MOULD_FROM_C) => {
                (format!(" At the surface {rh:.0} %: over weeks mould can grow."), true)
            }
            (_, Some(rh)) => (format!(" At the surface {rh:.0} %: no condensation."), false),
            _ => (String::new(), false),
        };
        let begins = w.condenses_below_out_c.map_or_else(String::new, |t| format!(" It would begin at {} outside.", u.temperature(t, 0)));
        let sentence = format!("{dew}{surface}{begins} Wood comes to {:.0} % in it.", w.wood_emc_pct);
        accounts.push(AirAccount { id: a.id.clone(), name, air: w, sentence, wrong });
    }
    // Which way the moisture comes: the air that holds more gives it.
    for a in of.air.iter().filter(|a| matches!(a.place, AirPlace::Attic | AirPlace::Crawl)) {
        let Ok(here) = worked(a) else { continue };
        let name = air_name(a, of);
        // Of several that were read the one that holds most: from there it would come.
        for (what, place) in [("outside", AirPlace::Outside), ("inside", AirPlace::Room)] {
            let held = read(of, place, a.on).filter_map(|o| worked(o).ok()).map(|w| w.mixing_g_kg);
            let Some(there) = held.max_by(f64::total_cmp) else { continue };
            let more = here.mixing_g_kg - there;
            if more > MORE_WATER_G_KG {
                says.push(format!(
                    "{name}: its air holds {more:.1} g/kg more than {what}; it gives water to there, and gets it from elsewhere."
                ));
            } else if more < -MORE_WATER_G_KG {
                says.push(format!("{name}: the air {what} holds {:.1} g/kg more; moisture can come from there.", -more));
            }
        }
    }
    (accounts, says)
}

/// Rain or room: what air and wall say about what was found wet.
pub(super) fn rain_or_room(i: &MoistureInput, airs: &[AirAccount], maps: &[SurfaceMap]) -> Vec<String> {
    let mut out = Vec::new();
    let mould = mould_pct(&i.practice);
    for a in i.moisture.air.iter().filter(|a| a.place == AirPlace::Room) {
        let Some(w) = airs.iter().find(|w| w.id == a.id) else { continue };
        let wet: Vec<&SurfaceMap> = maps
            .iter()
            .filter(|m| m.on == a.on && m.surface.room == a.room && m.map.as_ref().is_some_and(|k| k.class.contains(&Class::Wet)))
            .collect();
        if wet.is_empty() {
            continue;
        }
        let warm = w.air.f_rsi.is_none_or(|f| f >= WARM_FACTOR);
        if w.air.surface_rh_pct.is_some_and(|rh| rh < mould) && warm {
            out.push(format!(
                "{}: the coldest surface stays at {:.0} %; what is wet there is not condensation.",
                w.name,
                w.air.surface_rh_pct.unwrap_or_default()
            ));
        }
        for m in wet.iter().filter(|m| m.scale == Scale::Wood) {
            let emc = wood_equilibrium_pct(a.t_c, a.rh_pct);
            let most = m.readings.iter().map(|r| r.value).fold(0.0, f64::max);
            if most > emc + OVER_AIR_PCT {
                out.push(format!(
                    "{}: wood comes to {emc:.0} % in this air and reads {most:.0} %; that water is from elsewhere than the air.",
                    m.name
                ));
            }
        }
    }
    out
}
