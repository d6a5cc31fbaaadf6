//! Builds again when the page was built again.

fn main() {
    println!("cargo:rerun-if-changed=../../web/dist");
}
