//! The core from outside: laws, references and whole assessments. One program, so that it is built and linked once.

mod changes;
mod explicit;
mod flat_roofs;
mod from_people;
mod ground;
mod ground_laws;
mod gutter_laws;
mod laps;
mod moisture;
mod name_laws;
mod rainwater;
mod reference;
mod roof_account;
mod roof_forms;
mod roof_laws;
mod schools;
mod scores;
mod storm;
mod storm_laws;
mod talk;
mod trace;
mod walks;
mod wall_laws;
mod walls;
