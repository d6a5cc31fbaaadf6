//! Where water on the ground came from. The cheapest mend is at its origin.

use serde::{Deserialize, Serialize};

/// Where water came from.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", content = "of", rename_all = "kebab-case")]
pub enum Origin {
    /// Rain on the ground of the lot.
    Rain,
    /// Rain on a neighbour's ground that falls this way.
    NeighboursRain,
    /// What a gutter spills.
    Brim(String),
    /// What an outlet of a gutter lets go.
    Outlet(String),
    /// What pours off an eave without a gutter, by its label.
    Eave(String),
    /// A spray head.
    SprayHead(String),
}

/// Which part of the work a remedy at an origin belongs to, in the order a practice tries them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Stage {
    /// Roof and gutters.
    Roof,
    /// Spray heads.
    Irrigation,
    /// The ground itself.
    Ground,
    /// A barrier on the wall: it takes no water away.
    Barrier,
}

impl Origin {
    /// "over the brim of G3", "rain on the ground".
    pub fn words(&self) -> String {
        match self {
            Origin::Rain => "rain on the ground".into(),
            Origin::NeighboursRain => "rain on the neighbour's ground".into(),
            Origin::Brim(g) => format!("over the brim of {g}"),
            Origin::Outlet(g) => format!("outlet of {g}"),
            Origin::Eave(e) => format!("off the {e}"),
            Origin::SprayHead(s) => format!("spray head {s}"),
        }
    }

    /// The same, after "it came".
    pub fn came(&self) -> String {
        let words = self.words();
        match self {
            Origin::Rain | Origin::NeighboursRain => format!("as {words}"),
            Origin::Brim(_) | Origin::Eave(_) => words,
            Origin::Outlet(_) | Origin::SprayHead(_) => format!("from the {words}"),
        }
    }

    /// What ends it at its source, if anything does; `away` is how far from the wall led water is let go.
    pub fn remedy(&self, away: &str) -> Option<(Stage, String)> {
        Some(match self {
            Origin::Rain => return None,
            Origin::Brim(g) => (Stage::Roof, format!("end the spilling of {g} (clean it, mend its fall, one more outlet: see Rainwater)")),
            Origin::Outlet(g) => (Stage::Roof, format!("lead the outlet of {g} away, {away} from the wall")),
            Origin::Eave(e) => (Stage::Roof, format!("hang a gutter at the {e}, let go {away} from the wall at its lower end")),
            Origin::SprayHead(s) => (Stage::Irrigation, format!("move spray head {s}, or turn it off")),
            Origin::NeighboursRain => (Stage::Ground, "clear or cut a swale that turns the neighbour's water past the building".into()),
        })
    }
}
