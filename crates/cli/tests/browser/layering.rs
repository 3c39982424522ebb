//! Steps of the lines from Layers to Size that several tests take.

use anyhow::Result;

use crate::chrome::Browser;

/// Waits until the page knows the pieces of the result that the bench draws.
pub(crate) async fn settled(b: &Browser) -> Result<()> {
    b.until(
        "the pieces are those of the bench",
        "const bench = document.getElementById('bench'), line = document.querySelector('[data-mount=layers]'); \
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
