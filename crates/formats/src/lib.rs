//! Bytes to pictures, designs to bytes. Nothing here opens a file.
//!
//! | folder    | in                                   | out                          |
//! |-----------|--------------------------------------|------------------------------|
//! | `picture` | PNG, JPEG, TIFF, BMP, GIF, WebP      | [`picture::Artwork`]         |
//! | `svg`     | a design                             | SVG in mm                    |
//! | `png`     | a design, a picture, a solid picture | PNG, its dpi stated          |
//! | `lettering` | words and a shipped face              | outlines in mm               |
//! | `report`  | a traced design                      | JSON for scripts             |
//! | `vector`  | SVG, DXF                             | outlines in mm, a report     |
//! | `worth`   | what an artwork is worth             | JSON for scripts             |

pub mod lettering;
pub mod picture;
pub mod png;
pub mod report;
pub mod svg;
pub mod vector;
pub mod worth;
