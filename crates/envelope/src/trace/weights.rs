//! The figures the tracing weighs with: data, in `weights.toml`, with where they come from.

use serde::{Deserialize, Serialize};
use std::sync::OnceLock;

/// How a candidate gives water: the kinds, with an eave's end against a wall apart, because it is fed like a roof and falls like a wall.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(super) enum Origin {
    RoofDetail,
    RoofField,
    EaveEnd,
    WallOpening,
    WallField,
    GutterSpill,
    Pond,
    LetGo,
    SprayHead,
    Plumbing,
    Condensation,
}

/// One figure for each origin.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ByOrigin {
    /// Details of the roof.
    pub roof_detail: f64,
    /// The covering between them.
    pub roof_field: f64,
    /// The end of an eave against a wall.
    pub eave_end: f64,
    /// Openings in walls.
    pub wall_opening: f64,
    /// The cladding between them.
    pub wall_field: f64,
    /// Gutters that run over.
    pub gutter_spill: f64,
    /// Standing water.
    pub pond: f64,
    /// Downspouts let go.
    pub let_go: f64,
    /// Spray heads.
    pub spray_head: f64,
    /// Pipes and appliances.
    pub plumbing: f64,
    /// The room's air.
    pub condensation: f64,
}

impl ByOrigin {
    pub(super) const fn of(&self, o: Origin) -> f64 {
        match o {
            Origin::RoofDetail => self.roof_detail,
            Origin::RoofField => self.roof_field,
            Origin::EaveEnd => self.eave_end,
            Origin::WallOpening => self.wall_opening,
            Origin::WallField => self.wall_field,
            Origin::GutterSpill => self.gutter_spill,
            Origin::Pond => self.pond,
            Origin::LetGo => self.let_go,
            Origin::SprayHead => self.spray_head,
            Origin::Plumbing => self.plumbing,
            Origin::Condensation => self.condensation,
        }
    }
}

trait Numbers {
    fn each(&mut self, name: &str, f: &mut dyn FnMut(&str, &mut f64));
}

impl Numbers for f64 {
    fn each(&mut self, name: &str, f: &mut dyn FnMut(&str, &mut f64)) {
        f(name, self);
    }
}

impl Numbers for ByOrigin {
    fn each(&mut self, name: &str, f: &mut dyn FnMut(&str, &mut f64)) {
        f(&format!("{name}.roof_detail"), &mut self.roof_detail);
        f(&format!("{name}.roof_field"), &mut self.roof_field);
        f(&format!("{name}.eave_end"), &mut self.eave_end);
        f(&format!("{name}.wall_opening"), &mut self.wall_opening);
        f(&format!("{name}.wall_field"), &mut self.wall_field);
        f(&format!("{name}.gutter_spill"), &mut self.gutter_spill);
        f(&format!("{name}.pond"), &mut self.pond);
        f(&format!("{name}.let_go"), &mut self.let_go);
        f(&format!("{name}.spray_head"), &mut self.spray_head);
        f(&format!("{name}.plumbing"), &mut self.plumbing);
        f(&format!("{name}.condensation"), &mut self.condensation);
    }
}

macro_rules! weights {
    ($($(#[$doc:meta])* $name:ident: $ty:ty,)*) => {
        /// The figures. What ends in `_bits` is the binary logarithm of a factor; chances are between nought and one; the rest is
        /// positive and in the unit its name says.
        #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
        #[serde(deny_unknown_fields)]
        pub struct Weights { $($(#[$doc])* pub $name: $ty,)* }

        impl Weights {
            /// Every figure by its name, to be read or set: for the program that fits them, and for the test that holds their signs.
            pub fn each(&mut self, f: &mut dyn FnMut(&str, &mut f64)) {
                $(self.$name.each(stringify!($name), f);)*
            }
        }
    };
}

weights! {
    /// Found open, against not seen.
    state_open_bits: f64,
    /// Found doubtful, against not seen.
    state_doubtful_bits: f64,
    /// Found sound, against not seen.
    state_sound_bits: f64,
    /// How common it is that one of a kind feeds a spot it could reach, against something not on the list.
    common_bits: ByOrigin,
    /// How far the list is taken to hold the cause, whatever it holds: at one a list of unlikely candidates holds it as surely as a
    /// list of likely ones, at nought each stands for itself.
    list_holds_chance: f64,
    /// The same for pairs.
    pair_holds_chance: f64,
    /// That two work together, against one alone.
    pair_bits: f64,
    /// The same for what is low on a wall or on the floor.
    pair_low_bits: f64,
    /// How strongly what a kind usually shows as is held to.
    shows_power: f64,
    /// Something that is not on the list, for ceilings and decks.
    unlisted_roof_bits: f64,
    /// The same on a wall.
    unlisted_wall_bits: f64,
    /// The same at skirting and floor.
    unlisted_base_bits: f64,
    /// Sideways spread on a roof, m.
    roof_side_m: f64,
    /// How far down the slope it shows most often, m.
    roof_near_m: f64,
    /// How it thins beyond that, m.
    roof_far_m: f64,
    /// How it thins up the slope, m.
    roof_up_m: f64,
    /// Sideways spread in a wall, m.
    wall_side_m: f64,
    /// How it thins below its way in, where it shows at a head, a corner or high on a wall, m.
    wall_drop_m: f64,
    /// How far it falls to the floor at most, m.
    storey_m: f64,
    /// How it thins beyond that, m.
    beyond_storey_m: f64,
    /// How far above its source water shows in a wall, m.
    wall_up_m: f64,
    /// Sideways spread of an eave's end, m.
    eave_side_m: f64,
    /// How it thins below it, m.
    eave_drop_m: f64,
    /// How far in from the wall it shows on a floor, m.
    floor_in_m: f64,
    /// Sideways spread of a gutter's spill, m.
    spill_side_m: f64,
    /// Sideways spread of standing water, m.
    pond_side_m: f64,
    /// Sideways spread of a downspout let go, m.
    let_go_side_m: f64,
    /// Sideways spread of a spray head, m.
    spray_side_m: f64,
    /// How it thins with the distance between wall and water, m.
    base_out_m: f64,
    /// How far up the base it climbs, m.
    base_up_m: f64,
    /// How far up a spill splashes, m.
    spill_up_m: f64,
    /// Spread around a pipe, m.
    pipe_side_m: f64,
    /// How it thins below a pipe, m.
    pipe_drop_m: f64,
    /// Spread of condensation, m.
    cold_side_m: f64,
    /// Rain of an hour that does nothing yet, mm.
    rain_loss_mm: f64,
    /// How much faster with heavy rain: a power of the rain of the hour.
    rain_power: f64,
    /// Driven rain grows with the wind to this power, against 4 m/s.
    wind_power: f64,
    /// What a wall takes of rain that no wind drives onto it.
    wall_calm_share: f64,
    /// How many times the mean of an hour its worst minutes are.
    burst_times: f64,
    /// How sharply a spill sets in.
    spill_sharp: f64,
    /// How sharply a pond sets in.
    pond_sharp: f64,
    /// How much water makes the spot show, in the measure of what feeds it.
    shows_from: ByOrigin,
    /// How much that differs from spot to spot, as a natural logarithm.
    shows_spread: f64,
    /// How sharply wet parts from dry: fed by a roof.
    roof_sharp: f64,
    /// The same fed by a wall.
    wall_sharp: f64,
    /// The same fed at the base.
    base_sharp: f64,
    /// How long roof water is on its way, hours.
    roof_lag_h: f64,
    /// The same in walls.
    wall_lag_h: f64,
    /// The same at the base.
    base_lag_h: f64,
    /// How fast a spot fed by a roof dries, hours.
    roof_dry_h: f64,
    /// The same fed by a wall.
    wall_dry_h: f64,
    /// The same fed at the base.
    base_dry_h: f64,
    /// The same fed by a spray head.
    spray_dry_h: f64,
    /// How much drying differs, as a natural logarithm.
    dry_spread: f64,
    /// How often a spot that is fed without rain is found wet: pipes.
    pipe_wet_chance: f64,
    /// The same: condensation.
    cold_wet_chance: f64,
    /// How much that differs, as a natural logarithm of the odds.
    duty_spread: f64,
    /// Condensation after two dry days, against wet weather: clear nights cool a wall.
    cold_clear_bits: f64,
    /// Condensation in the morning, against the rest of the day.
    cold_morning_bits: f64,
    /// A spot under a roof is found wet though nothing on the list fed it.
    roof_false_wet_chance: f64,
    /// The same on a wall.
    wall_false_wet_chance: f64,
    /// The same at the base.
    base_false_wet_chance: f64,
    /// A wet spot is said to be dry.
    false_dry_chance: f64,
    /// A hose test on the right place shows nothing however long it runs.
    hose_miss_chance: f64,
    /// How long it takes on a roof, minutes.
    hose_roof_min: f64,
    /// How long it takes in a wall, minutes.
    hose_wall_min: f64,
    /// How long it takes at the base, minutes.
    hose_base_min: f64,
    /// A hose shows wet though the place is sound, what lies below having been cleared.
    hose_false_chance: f64,
    /// The same where it was not cleared.
    hose_uncleared_chance: f64,
    /// The same where the true cause lies below and was not cleared.
    hose_below_chance: f64,
    /// Another test on the right place shows nothing.
    other_miss_chance: f64,
    /// Another test accuses a sound place.
    other_false_chance: f64,
}

impl Weights {
    /// The figures that ship with the program.
    ///
    /// # Panics
    /// Never: a test reads them.
    pub fn standard() -> &'static Self {
        static FILE: OnceLock<Weights> = OnceLock::new();
        FILE.get_or_init(|| toml::from_str(include_str!("weights.toml")).expect("the embedded weights are tested"))
    }
}
