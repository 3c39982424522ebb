//! Bytes to pictures, designs to bytes. Nothing here opens a file.
//!
//! | folder    | in                                   | out                          |
//! |-----------|--------------------------------------|------------------------------|
//! | `picture` | PNG, JPEG, TIFF, BMP, GIF, WebP      | [`picture::Artwork`]         |
//! | `svg`     | a design                             | SVG in mm                    |
//! | `png`     | a design, a picture, a solid picture | PNG, its dpi stated          |
//! | `report`  | a traced design                      | JSON for scripts             |
//! | `worth`   | what an artwork is worth             | JSON for scripts             |

pub mod picture;
pub mod png;
pub mod report;
pub mod svg;
pub mod worth;
