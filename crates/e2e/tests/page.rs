//! The page's own unit tests, so that one command runs all there are.

use std::process::Command;

#[test]
fn the_pages_own_tests_pass() {
    let web = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web");
    let out = Command::new("npm").args(["run", "--silent", "test"]).current_dir(web).env("NO_COLOR", "1").output();
    let out = out.expect("npm could not be started; cargo xtask test installs what the page needs");
    assert!(out.status.success(), "{}\n{}", String::from_utf8_lossy(&out.stdout), String::from_utf8_lossy(&out.stderr));
}
