//! What the notes quote: `cargo bench --package envelope -- gutter` measures one part of it.

mod ground;
mod gutter;
mod laps;
mod note_line;
mod roof;
mod storm;
mod talk;
mod trace;

fn main() {
    println!("kept for each cell of a flooded grid: {} bytes", ground::kept_for_a_cell());
    divan::main();
}
