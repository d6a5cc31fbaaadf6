//! The main demo job as a whole: what it says, what is drawn of it, and what a change carries over. The demo is made once for all.

mod carried;
mod counted;
mod drawn;
mod kept;
mod measured;
mod order;
mod refused;
mod units;

use account::Case;
use drawing::{
    Look, cracks_svg, drying_svg, elevation_svg, flat_hour_svg, floor_svg, flow_svg, ground_svg, laps_svg, life_svg, moisture_svg,
    perimeter_svg, places_svg, plan_svg, rain_svg, rates_svg, rooms_svg, section_svg, soft_wheel_svg, square_svg, storm_plan_svg,
    trace_plan_svg, trace_section_svg, transect_svg, wheel_svg,
};
use envelope::site::{Cell, Face};
use ledger::{Ledger, SystemClock, WholeJob};
use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;
use std::sync::{Arc, LazyLock, Mutex};
use tempfile::TempDir;

fn open(folder: &Path) -> Ledger {
    Ledger::open(folder, Arc::new(SystemClock)).unwrap()
}

fn copy(from: &Path, to: &Path) {
    std::fs::create_dir_all(to).unwrap();
    for entry in std::fs::read_dir(from).unwrap().map(Result::unwrap) {
        let there = to.join(entry.file_name());
        if entry.file_type().unwrap().is_dir() {
            copy(&entry.path(), &there);
        } else {
            std::fs::copy(entry.path(), there).unwrap();
        }
    }
}

/// A ledger of its own with the demo, to be changed. It is loaded once, which takes seconds, and copied.
fn loaded() -> (TempDir, Ledger) {
    static LOADED: LazyLock<TempDir> = LazyLock::new(|| {
        let folder = tempfile::tempdir().unwrap();
        assert_eq!(demo::load(&open(folder.path())).unwrap(), 4);
        folder
    });
    let folder = tempfile::tempdir().unwrap();
    copy(LOADED.path(), folder.path());
    let ledger = open(folder.path());
    (folder, ledger)
}

/// The clinic with a change that nobody keeps.
fn case(change: impl FnOnce(&mut WholeJob)) -> Case {
    static KEPT: LazyLock<(Mutex<WholeJob>, jiff::civil::Date)> = LazyLock::new(|| {
        let (_folder, ledger) = loaded();
        // The main demo is listed first.
        (Mutex::new(ledger.job(&ledger.jobs().unwrap()[0].job.id).unwrap()), ledger.today())
    });
    let mut whole = KEPT.0.lock().unwrap().clone();
    change(&mut whole);
    Case::new(whole, KEPT.1)
}

/// Everything that is drawn of a job, each with what it is.
fn drawings(case: &Case, look: Look) -> Vec<(&'static str, String)> {
    let look = look.in_units(case.practice().units);
    let (roof, rain, walls, moisture, trace) = (case.roof(), case.rain(), case.walls(), case.moisture(), case.trace());
    let (storm, damage, kept) = (case.damage_kept(), case.damage(), case.trace_kept());
    let days = kept.days();
    let spots = || kept.spots.iter().map(|s| s.id.as_str());
    let mut out = vec![("wheel", wheel_svg(&case.view().wheel, &case.view().coverage, &case.by_cell(), look))];
    let mut add = |what: &'static str, svg: &mut dyn Iterator<Item = String>| out.extend(svg.map(|svg| (what, svg)));
    add("roof", &mut plan_svg(roof, look).into_iter());
    add("elevation", &mut roof.elevations.iter().map(|e| elevation_svg(e, roof, look)));
    let at = |cell| places_svg(&case.key_plan(), &BTreeMap::from([(cell, vec![1, 2, 3, 4])]), &BTreeSet::from([cell]), look);
    add("place", &mut Cell::all().into_iter().map(at));
    add("walk around", &mut roof.perimeter.iter().map(|t| perimeter_svg(t, look)));
    add("life", &mut roof.slopes.iter().filter_map(|s| Some(life_svg(s, s.life.as_ref()?, look))));
    add("flow", &mut flow_svg(&case.roof_kept(), case.brief(), rain, None, look).into_iter());
    add("section", &mut rain.gutters.iter().filter_map(|g| Some(section_svg(g.run.as_ref()?, &g.id, look))));
    add("hour", &mut rain.flats.iter().filter_map(|f| flat_hour_svg(f, look)));
    add("ground", &mut ground_svg(case.survey(), &case.ground_kept(), Default::default(), look).into_iter());
    add("profile", &mut case.survey().account.transects.iter().map(|t| transect_svg(t, look)));
    add("laps", &mut walls.details.iter().filter_map(|d| laps_svg(d, look)));
    add("cracks", &mut Face::ALL.into_iter().filter_map(|f| cracks_svg(f, &case.walls_kept(), walls, roof, look)));
    add("floor", &mut std::iter::once(floor_svg(walls.floor.as_ref(), None, None, look)));
    add("rooms", &mut rooms_svg(moisture, look).into_iter());
    add("map", &mut moisture.maps.iter().map(|m| moisture_svg(m, &moisture.heat, look)));
    add("drying", &mut moisture.drying.iter().map(|d| drying_svg(d, look)));
    add("trace plan", &mut spots().filter_map(|s| trace_plan_svg(trace, s, look)));
    add("trace section", &mut spots().filter_map(|s| trace_section_svg(trace, s, look)));
    add("rain", &mut spots().filter_map(|s| rain_svg(&kept, s, &days, look)));
    add("storm", &mut storm_plan_svg(roof, damage, None, look).into_iter());
    add("rates", &mut rates_svg(damage, look).into_iter());
    add("soft", &mut soft_wheel_svg(&case.view().wheel, &storm.soft, None, look).into_iter());
    add("square", &mut storm.squares.iter().zip(&damage.squares).map(|(q, a)| square_svg(q, a, look)));
    out
}
