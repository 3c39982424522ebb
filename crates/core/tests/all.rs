//! The core tried from outside it, as one program: twenty-three would be linked one by one.

mod agreement_ranks;
mod analytic_shapes;
mod border_following;
mod centre_lines;
mod checks_and_remedies;
mod cut_order;
mod hard_cases;
mod ink_choices;
mod iso_lines;
mod layers_and_fits;
mod local_width;
mod map_properties;
mod mutated;
mod nesting;
mod one_way;
mod overlay_and_offset;
mod published_values;
mod sample_pictures;
mod sheets;
mod support;
mod thin_strokes;
mod tidy_edits;
mod tidy_kept;
mod tidy_nodes;
mod touching_corners;
mod worth_of_artwork;
