//! Pages opened and steps taken, with what the line and the bench have to know of each other.

use anyhow::Result;

use crate::chrome::Browser;

/// Waits until the open line knows the items or pieces that the bench draws.
pub(crate) async fn settled(b: &Browser) -> Result<()> {
    b.until(
        "the line knows what the bench draws",
        "const bench = document.getElementById('bench'), line = document.querySelector('[data-mount=layers], [data-mount=tidy]'); \
         return bench.dataset.shown === bench.dataset.key && (!line || line.dataset.items === bench.dataset.key)",
    )
    .await
}

pub(crate) async fn open(b: &Browser, address: &str) -> Result<()> {
    b.go(address).await?;
    settled(b).await
}

pub(crate) async fn step(b: &Browser, name: &str) -> Result<()> {
    b.until_undo(name).await?;
    settled(b).await
}

/// Waits until the bench shows the sheets that the page names.
pub(crate) async fn sheet(b: &Browser) -> Result<()> {
    b.until(
        "the sheet is shown",
        "const s = document.getElementById('sheeting'); \
         return s !== null && (s.dataset.shown ?? '').startsWith(s.dataset.sheets)",
    )
    .await
}
