//! Bytes to pictures, designs to bytes. Nothing here opens a file.
//!
//! | folder    | in                                   | out                          |
//! |-----------|--------------------------------------|------------------------------|
//! | `picture` | PNG, JPEG, TIFF, BMP, GIF, WebP      | [`picture::Artwork`]         |
//! | `svg`, `dxf`, `pdf` | a page of lines            | the same as SVG, DXF, PDF    |
//! | `hpgl`, `gcode` | a page and its plan            | the same for a machine       |
//! | `png`     | a page, a picture, a solid picture   | PNG, its dpi stated          |
//! | `corrected` | a file for a machine, the way to a printed page | the same file, moved |
//! | `files`   | a page and what is wanted of it      | files, and what they hold in words |
//! | `offcut`  | a drawing; a piece of stock with its picture | stock; SVG            |
//! | `lettering` | words and a shipped face              | outlines in mm               |
//! | `report`  | a traced design                      | JSON for scripts             |
//! | `vector`  | SVG, DXF, HPGL, G-code               | outlines in mm, a report     |
//! | `worth`   | what an artwork is worth             | JSON for scripts             |

mod arcs;
pub mod corrected;
pub mod dxf;
pub mod files;
pub mod gcode;
pub mod hpgl;
pub mod lettering;
pub mod names;
pub mod offcut;
pub mod pdf;
pub mod picture;
pub mod png;
pub mod report;
pub mod svg;
pub mod toolpath;
pub mod vector;
pub mod worth;
