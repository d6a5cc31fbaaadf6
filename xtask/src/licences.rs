//! The list of what others made and under which licence, from the two lock files.

use anyhow::{Context, Result};
use serde_json::Value;
use std::collections::BTreeSet;
use std::path::Path;
use std::process::Command;

/// Writes THIRD-PARTY.md.
pub(crate) fn write(root: &Path) -> Result<()> {
    let mut out = String::from(
        "# Third-party software\n\nMade by `cargo xtask licences` from the lock files; do not edit.\nThe fonts in `crates/report/fonts` and the list of ordinary words in `crates/envelope/src/round` carry their licences beside them.\n",
    );
    for (title, rows) in [("Rust crates", crates(root)?), ("npm packages", packages(root)?)] {
        out += &format!("\n## {title}\n\n| name | version | licence |\n|---|---|---|\n");
        for (name, version, licence) in rows {
            out += &format!("| {name} | {version} | {licence} |\n");
        }
    }
    std::fs::write(root.join("THIRD-PARTY.md"), out)?;
    Ok(())
}

type Rows = BTreeSet<(String, String, String)>;

fn text(v: &Value, key: &str) -> String {
    v[key].as_str().unwrap_or("see its files").to_owned()
}

fn crates(root: &Path) -> Result<Rows> {
    let out = Command::new("cargo").args(["metadata", "--format-version", "1"]).current_dir(root).output()?;
    let all: Value = serde_json::from_slice(&out.stdout).context("cargo metadata")?;
    let packages = all["packages"].as_array().cloned().unwrap_or_default();
    Ok(packages.iter().filter(|p| !p["source"].is_null()).map(|p| (text(p, "name"), text(p, "version"), text(p, "license"))).collect())
}

fn packages(root: &Path) -> Result<Rows> {
    let lock: Value = serde_json::from_slice(&std::fs::read(root.join("web/package-lock.json"))?)?;
    let all = lock["packages"].as_object().cloned().unwrap_or_default();
    Ok(all
        .iter()
        .filter(|(path, _)| !path.is_empty())
        .map(|(path, p)| (path.rsplit("node_modules/").next().unwrap_or(path).to_owned(), text(p, "version"), text(p, "license")))
        .collect())
}
