//! Pictures of heat with what the meter says of each patch.

use super::account::{MoistureInput, surface_name};
use super::figures::{HeatAccount, PatchAccount, PatchState, ReadAt, SurfaceMap};
use super::heat::{HeatInput, heat};
use super::map::Class;
use super::record::HeatPicture;

pub(super) fn pictures(i: &MoistureInput, maps: &[SurfaceMap], left: &mut Vec<String>) -> Vec<HeatAccount> {
    i.moisture.heat.iter().map(|h| picture(i, h, maps, left)).collect()
}

fn picture(i: &MoistureInput, h: &HeatPicture, maps: &[SurfaceMap], left: &mut Vec<String>) -> HeatAccount {
    let least = i.practice.rule("heat-least").figure();
    let at = h.at.read().unwrap_or_default();
    let (rows, cols) = (h.grid.len() as f64, h.grid.first().map_or(0, Vec::len) as f64);
    let against = h.conditions.against();
    let name = surface_name(&h.at, &i.moisture);
    let found = heat(&HeatInput { cell_m: h.cell_m, grid: h.grid.clone(), least_k: Some(least) }).ok();
    let read: Vec<&ReadAt> = maps.iter().filter(|m| m.surface == h.at.surface() && m.on == h.on).flat_map(|m| &m.readings).collect();
    let patches = found.iter().filter(|_| against.is_empty()).flat_map(|f| &f.patches).map(|p| {
        let top = at[1] + rows * h.cell_m;
        let bounds = [at[0] + p.bounds[0], top - p.bounds[3], at[0] + p.bounds[2], top - p.bounds[1]];
        let within = |r: &&&ReadAt| r.x_m >= bounds[0] && r.x_m <= bounds[2] && r.y_m >= bounds[1] && r.y_m <= bounds[3];
        let inside: Vec<&&ReadAt> = read.iter().filter(within).collect();
        let beside = read.len() > inside.len();
        let judged: Vec<Class> = inside.iter().filter_map(|r| r.class).collect();
        let state = if judged.is_empty() || !beside {
            PatchState::Unconfirmed
        } else if judged.iter().any(|c| *c != Class::Dry) {
            PatchState::Wet
        } else {
            PatchState::Dry
        };
        let kind = if p.cold { "colder" } else { "warmer" };
        let what = format!("A patch of {}, {:.1} K {kind} than the wall around it", i.practice.units.area(p.area_m2), p.depth_k);
        let sentence = match state {
            PatchState::Unconfirmed => {
                let missing = if judged.is_empty() { "a contact reading inside it" } else { "a contact reading beside it" };
                left.push(format!("{name}: {missing} for the patch of picture {}.", h.id));
                format!("{what}. Not confirmed: it wants {missing}.")
            }
            PatchState::Wet => format!("{what}. The meter agrees: wet."),
            PatchState::Dry => format!("{what}. The meter finds it dry: look for air, a duct, missing insulation or a stud."),
        };
        PatchAccount { patch: p.clone(), at: [at[0] + p.x, top - p.y], bounds, state, sentence }
    });
    HeatAccount {
        id: h.id.clone(),
        name: name.clone(),
        surface: h.at.surface(),
        on: h.on,
        at,
        size: [cols * h.cell_m, rows * h.cell_m],
        patches: patches.collect(),
        against,
        heat: found,
    }
}
