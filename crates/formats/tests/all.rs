//! Files read and written, as one program: each more would be linked on its own.

mod bad_and_odd_files;
mod compressed_edges;
mod compressed_inks;
mod golden_texts;
mod kinds;
mod mutated;
#[path = "../../core/tests/support/mutated.rs"]
mod random;
mod svg_read_back;
mod vector_in;
mod what_is_true_of_forty_pictures;
mod written_read_back;
