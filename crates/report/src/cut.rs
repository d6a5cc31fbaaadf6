//! What is cut from the one account: the whole report, a page, a statement for an insurer, a work list for one trade.

use account::{Case, JobView};
use envelope::finding::{Finding, ReportPart};
use envelope::roof::access::capital;
use envelope::site::ItemKind;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Which selection.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Cut {
    /// Everything.
    #[default]
    Full,
    /// One page.
    Note,
    /// A statement of the roof for an insurer.
    Insurer,
    /// The findings of one trade.
    Trade,
}

/// The sheet.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Paper {
    /// 210 by 297 mm.
    #[default]
    A4,
    /// 8½ by 11 in.
    Letter,
}

impl Paper {
    pub(crate) fn typst_name(self) -> &'static str {
        match self {
            Paper::A4 => "a4",
            Paper::Letter => "us-letter",
        }
    }
}

/// What is to be set.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Default, Serialize, Deserialize, utoipa::IntoParams)]
pub struct ReportWanted {
    /// Which selection.
    #[serde(default)]
    #[param(inline)]
    pub cut: Cut,
    /// The sheet.
    #[serde(default)]
    #[param(inline)]
    pub paper: Paper,
    /// The trade of a work list.
    #[serde(default)]
    pub trade: Option<String>,
}

impl ReportWanted {
    pub(crate) fn trade(&self) -> &str {
        self.trade.as_deref().unwrap_or_default()
    }
    pub(crate) fn heading(&self, visit: &str) -> String {
        match self.cut {
            Cut::Full => visit.to_owned(),
            Cut::Note => format!("{visit}, in short"),
            Cut::Insurer => "Roof statement".to_owned(),
            Cut::Trade => format!("Work list, {}", self.trade().to_lowercase()),
        }
    }
}

/// The trades a finding is for: "Roofer or framer" is on both lists.
fn trades_of(f: &Finding) -> Vec<String> {
    let named = f.trade.iter().flat_map(|t| t.split(" or ")).flat_map(|t| t.split(" and "));
    named.map(|t| capital(t.trim())).filter(|t| !t.is_empty()).collect()
}

pub(crate) fn is_of_trade(f: &Finding, trade: &str) -> bool {
    trades_of(f).iter().any(|t| t == trade)
}

/// The trades this report has work for, with how many findings each.
#[must_use]
pub fn trades(view: &JobView) -> Vec<(String, usize)> {
    let mut out: BTreeMap<String, usize> = BTreeMap::new();
    for t in view.findings.iter().filter(|f| f.section == ReportPart::Findings).flat_map(trades_of) {
        *out.entry(t).or_default() += 1;
    }
    out.into_iter().collect()
}

/// What is dangerous about the work itself.
pub(crate) fn cautions(main: &[&Finding], trade: &str) -> Vec<String> {
    let mut out = vec![
        "Local code, the manufacturer's instructions and the licensed trade decide.".to_owned(),
        "Ladders and roofs are for people who are trained, equipped and secured for them.".to_owned(),
    ];
    let lower = trade.to_lowercase();
    if ["drainage", "landscap", "concrete", "irrigation", "fence"].iter().any(|t| lower.contains(t)) {
        out.push("Before digging, have buried lines located; near gas and electricity only a licensed trade digs.".into());
    }
    if ["siding", "carpenter", "mason", "stucco", "window", "builder", "roof"].iter().any(|t| lower.contains(t)) {
        out.push("Old boards, sheets, mastics and coats may hold asbestos or lead: have them looked at before they are cut.".into());
        out.push("Opening a wall or roof may meet electricity, gas or mould.".into());
    }
    let dangers: Vec<String> =
        main.iter().filter(|f| f.hazard && is_of_trade(f, trade)).filter_map(|f| Some(format!("{}", f.number?))).collect();
    if !dangers.is_empty() {
        out.push(format!("Of this list, {} can hurt someone: make it safe first.", dangers.join(", ")));
    }
    out
}

/// What a trade measures by, from the benches: name and figure.
pub(crate) fn quantities(case: &Case, trade: &str) -> Vec<(String, String)> {
    let u = case.practice().units;
    let t = trade.to_lowercase();
    let mut out: Vec<(String, String)> = vec![];
    if t.contains("roof")
        && let Some(shape) = &case.roof().shape
    {
        for c in &case.roof().coverings {
            out.push((capital(&c.name), format!("{:.1} squares ({})", c.squares, u.area(c.squares * 9.290_304))));
        }
        out.extend(
            shape.edge_totals.iter().filter(|(_, l)| l.true_m > 0.0).map(|(k, l)| (capital(&k.replace('_', " ")), u.length(l.true_m, 1))),
        );
        for f in &case.roof().fittings {
            out.push((capital(&f.name), f.width_m.map_or_else(|| "1".into(), |w| format!("1, {} wide", u.length(w, 2)))));
        }
    }
    if t.contains("gutter") {
        let kept = case.rainwater_kept();
        for (g, a) in kept.gutters.iter().zip(&case.rain().gutters) {
            let name = if g.name.is_empty() { g.id.clone() } else { format!("{} {}", g.id, g.name) };
            let long = a.run.as_ref().map_or_else(|| "not measured".into(), |r| u.length(r.surface.last().map_or(0.0, |s| s[0]), 1));
            let outlets = g.outlets.len();
            out.push((format!("Gutter {name}"), format!("{long}, {outlets} {}", if outlets == 1 { "outlet" } else { "outlets" })));
        }
    }
    if ["drainage", "landscap", "concrete"].iter().any(|x| t.contains(x))
        && case.whole().ground.is_some()
        && let Ok(mends) = case.mending()
    {
        out.extend(mends.iter().filter_map(|m| Some((capital(&m.place), m.remedies.first()?.words.clone()))));
    }
    if ["mason", "stucco", "foundation", "engineer"].iter().any(|x| t.contains(x)) && case.whole().walls.is_some() {
        for c in &case.walls().cracks {
            let wide = c.widest_m.map_or_else(String::new, |w| format!(", {} at its widest", u.fine(w)));
            out.push((format!("Crack {}", c.id), format!("{} long{wide}", u.length(c.length_m, 2))));
        }
    }
    if ["window", "siding", "sealant", "glazier", "door"].iter().any(|x| t.contains(x)) {
        for (kind, name) in
            [(ItemKind::Window, "Windows"), (ItemKind::Door, "Doors"), (ItemKind::Penetration, "What goes through the walls")]
        {
            let n = case.whole().items.iter().filter(|i| i.body.kind == kind).count();
            if n > 0 {
                out.push((name.to_owned(), n.to_string()));
            }
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_finding_for_two_trades_is_on_both_lists() {
        let note = envelope::round::read(
            "gutter end no downspout",
            &envelope::round::Context::at(envelope::site::Place::outside(envelope::site::Face::Rear, envelope::site::Zone::Edge), None),
        )
        .notes
        .remove(0)
        .into_note(String::new());
        let mut f = envelope::finding::findings([("n", &note)], &Default::default(), &Default::default()).remove(0);
        f.trade = Some("Roofer or framer".into());
        assert!(is_of_trade(&f, "Roofer") && is_of_trade(&f, "Framer") && !is_of_trade(&f, "Mason"));
        f.trade = None;
        assert!(trades_of(&f).is_empty());
    }
}
