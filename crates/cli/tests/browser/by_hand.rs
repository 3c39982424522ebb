//! Nodes, handles and things drawn by hand on the Tidy line, in headless Chromium.

use crate::chrome::with;
use crate::tidying::*;
use anyhow::{Result, ensure};
use thirtyfour::prelude::*;

#[test]
fn nodes_and_segments_are_changed_by_hand() -> Result<()> {
    with("demo", async |b, server, _| {
        open(b, &format!("{}{TEAPOT}", server.address)).await?;
        b.click("[data-snap=nodes]").await?;
        b.point(STAR).await?;
        b.click("#tab-nodes").await?;
        // A double click puts a node on a segment.
        b.point_twice((69.1, 52.0)).await?;
        step(b, "Node inserted").await?;
        picked(b, "11 nodes").await?;
        b.drag(&[(69.1, 52.0), (66.0, 50.0), (64.0, 49.0)]).await?;
        step(b, "Node moved").await?;
        b.click("[data-node=smooth]").await?;
        step(b, "Node made smooth").await?;
        // Its handles can be dragged now: the one after it points along the neighbours.
        b.point((64.0, 49.0)).await?;
        picked(b, "One node is picked").await?;
        b.click("[data-node=delete]").await?;
        step(b, "Node deleted").await?;
        picked(b, "10 nodes").await?;
        // A segment: made an arc is refused where it is straight, and said so.
        b.point((79.0, 70.8)).await?;
        b.click("[data-node=to-arc]").await?;
        b.until_text("#problem-tidy", "segment is straight").await?;
        // Taken out, the outline is open; closed again it is a shape.
        b.point((81.4, 58.8)).await?;
        picked(b, "One segment is picked").await?;
        b.click("[data-node=delete-segment]").await?;
        step(b, "Segment deleted").await?;
        b.until_text("#summary-trace", "5 lines and shapes").await?;
        b.click("[data-node=close]").await?;
        step(b, "Path closed").await?;
        b.until_text("#summary-trace", "5 shapes").await?;
        b.click("[data-node=make-smooth]").await?;
        step(b, "Path made smooth").await?;
        // A node dragged across the outline is refused; nothing is lost.
        b.click("#undo").await?;
        step(b, "Path closed").await?;
        b.drag(&[(70.94, 46.88), (70.9, 70.0), (70.9, 90.0)])
            .await?;
        b.until_text("#problem-tidy", "would cross itself").await?;
        b.until_text("#summary-trace", "5 shapes").await?;
        Ok(())
    })
}

#[test]
fn things_are_drawn_over_the_artwork() -> Result<()> {
    with("demo", async |b, server, _| {
        open(b, &format!("{}{TEAPOT}", server.address)).await?;
        b.click("[data-snap=nodes]").await?;
        b.click("[data-tool=circle]").await?;
        // A circle of radius 10 around (130, 90); its diameter is told before the third click.
        b.point((140.0, 90.0)).await?;
        b.point((130.0, 80.0)).await?;
        let (x, y) = b.on_screen((120.0, 90.0)).await?;
        b.hand().move_to(x, y).perform().await?;
        b.until("the diameter is told", "const told = document.querySelector('#draw-told').textContent; return told.endsWith('mm across') && Math.abs(parseFloat(told) - 20) < 0.6").await?;
        b.point((120.0, 90.0)).await?;
        step(b, "Circle drawn").await?;
        let [_, _, w, h] = place(b).await?;
        ensure!((w - 20.0).abs() < 0.3 && (h - w).abs() < 1e-9, "{w} × {h}");
        b.click("[data-tool=ellipse]").await?;
        b.drag(&[(5.0, 80.0), (10.0, 95.0), (25.0, 100.0)]).await?;
        step(b, "Ellipse drawn").await?;
        type_in(b, "#draw-radius", "3").await?;
        b.click("[data-tool=rectangle]").await?;
        b.drag(&[(5.0, 5.0), (20.0, 10.0), (35.0, 20.0)]).await?;
        step(b, "Rectangle drawn").await?;
        picked(b, "8 nodes").await?;
        b.click("[data-tool=arc]").await?;
        for at in [(110.0, 10.0), (120.0, 5.0), (130.0, 10.0)] {
            b.point(at).await?;
        }
        step(b, "Arc drawn").await?;
        b.click("[data-tool=polyline]").await?;
        for at in [(110.0, 15.0), (130.0, 15.0), (120.0, 25.0), (110.0, 15.0)] {
            b.point(at).await?;
        }
        step(b, "Polygon drawn").await?;
        picked(b, "3 nodes").await?;
        b.click("[data-tool=pen]").await?;
        b.point((40.0, 104.0)).await?;
        b.drag(&[(50.0, 108.0), (53.0, 110.0), (55.0, 110.0)])
            .await?;
        b.point((60.0, 104.0)).await?;
        b.point((40.0, 104.0)).await?;
        step(b, "Outline drawn").await?;
        // Around the foot, along the artwork's own edge, in three clicks and back to the first.
        b.click("[data-tool=follow]").await?;
        for at in [(60.0, 95.6), (89.2, 97.5), (70.0, 99.4), (52.6, 97.5)] {
            b.point(at).await?;
            b.until(
                "the way was found",
                "return document.querySelector('#draw-told').textContent === ''",
            )
            .await?;
            tokio::task::yield_now().await;
        }
        b.point((60.0, 95.6)).await?;
        b.until_text("#summary-tidy", "7 edits").await?;
        settled(b).await?;
        let followed = place(b).await?;
        b.click("[data-tool=pick]").await?;
        b.click("[data-order=bottom]").await?;
        step(b, "1 item at the bottom").await?;
        b.point(FOOT).await?;
        let foot = place(b).await?;
        for (a, c) in followed.iter().zip(foot) {
            ensure!((a - c).abs() < 0.05, "{followed:?} beside {foot:?}");
        }
        // An empty region is filled by pointing: the hole of the handle.
        b.click("[data-tool=fill]").await?;
        b.point((27.0, 60.0)).await?;
        step(b, "Empty region filled").await?;
        b.point(BODY).await?;
        b.until_text("#problem-tidy", "There is a shape here already")
            .await?;
        // Escape puts the tool down.
        b.find("#bench canvas")
            .await?
            .send_keys(Key::Escape)
            .await?;
        b.until("shapes are picked again", "return document.querySelector('[data-tool=pick]').getAttribute('aria-pressed') === 'true'").await?;
        Ok(())
    })
}

#[test]
fn handles_are_dragged_and_open_ends_are_joined() -> Result<()> {
    with("demo", async |b, server, _| {
        open(b, &format!("{}{TEAPOT}", server.address)).await?;
        b.click("[data-snap=nodes]").await?;
        b.click("[data-snap=straight]").await?;
        // A smooth node of the spout: its handle is dragged, the other one turns with it.
        b.point(BODY).await?;
        b.click("#tab-nodes").await?;
        b.point((122.92, 51.56)).await?;
        picked(b, "One node is picked").await?;
        b.drag(&[(119.62, 60.82), (119.0, 62.0), (117.0, 63.0)])
            .await?;
        step(b, "Handle moved").await?;
        b.point((122.92, 51.56)).await?;
        b.click("[data-node=corner]").await?;
        step(b, "Node made a corner").await?;
        // A curve of the spout becomes straight, another an arc.
        b.point((111.71, 47.42)).await?;
        picked(b, "One segment is picked").await?;
        b.click("[data-node=to-arc]").await?;
        step(b, "Segment made an arc").await?;
        b.point((102.58, 42.74)).await?;
        picked(b, "One segment is picked").await?;
        b.click("[data-node=straighten]").await?;
        step(b, "Segment straightened").await?;
        b.point((98.71, 40.26)).await?;
        b.click("[data-node=insert]").await?;
        step(b, "Node inserted").await?;
        b.click("[data-node=reverse]").await?;
        b.until_text("#problem-tidy", "only lines are reversed")
            .await?;
        // Two lines become one, which is closed, and opened at a node.
        b.click("[data-tool=polyline]").await?;
        line(b, (108.0, 6.0), (140.0, 6.0)).await?;
        step(b, "Line drawn").await?;
        line(b, (108.0, 16.0), (140.0, 16.0)).await?;
        b.until_text("#summary-trace", "7 lines and shapes").await?;
        settled(b).await?;
        b.click("[data-tool=pick]").await?;
        b.press(Key::Escape).await?;
        b.drag(&[(104.0, 2.0), (120.0, 10.0), (145.0, 20.0)])
            .await?;
        picked(b, "2 items · 4 nodes").await?;
        b.click("#tab-nodes").await?;
        b.point((140.0, 6.0)).await?;
        with_shift(b, (140.0, 16.0)).await?;
        picked(b, "2 nodes are picked").await?;
        b.click("[data-node=join]").await?;
        step(b, "Ends joined").await?;
        picked(b, "1 item · 4 nodes").await?;
        b.click("[data-node=close]").await?;
        step(b, "Path closed").await?;
        picked(b, "1 item · 4 nodes").await?;
        b.point((108.0, 6.0)).await?;
        b.click("[data-node=break]").await?;
        step(b, "Path opened").await?;
        b.click("[data-node=reverse]").await?;
        step(b, "Path reversed").await?;
        b.until_text("#summary-trace", "6 lines and shapes").await?;
        Ok(())
    })
}
