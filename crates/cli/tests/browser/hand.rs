//! A hand that works the page in one of three ways, counts what it does, and what it has to scroll to.

use std::time::Duration;

use anyhow::{Context, Result, bail, ensure};
use serde_json::json;
use thirtyfour::prelude::*;

use crate::chrome::Browser;

/// What somebody works with.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum By {
    Mouse,
    Keys,
    Touch,
}

pub(crate) struct Hand<'a> {
    b: &'a Browser,
    by: By,
    /// Presses, choices and figures typed.
    pub(crate) actions: u32,
    /// Controls that were out of sight.
    pub(crate) scrolls: u32,
}

/// Taps that are nearer in time are one double tap.
const APART: Duration = Duration::from_millis(320);
/// More presses of Tab than any page has stops.
const STOPS: usize = 250;

/// What the focus has to do to come nearer to an element: nothing, an arrow within its group, or Tab, forwards or back.
const WAY: &str = "
    const [now, to] = [document.activeElement, document.querySelector(arguments[0])];
    const group = (e) => (e.type === 'radio' ? `radio ${e.name}` : e.getAttribute('role') === 'tab' ? 'tab' : null);
    if (now === to) return 'there';
    if (group(now) && group(now) === group(to)) return 'arrow';
    const back = now.compareDocumentPosition(to) & Node.DOCUMENT_POSITION_PRECEDING;
    return now !== document.body && back ? 'back' : 'on';";

/// Where an element is pressed, px; whether it had to be scrolled to, and whether something lies over it.
const PLACE: &str = "
    const e = document.querySelector(arguments[0]);
    const pressed = e.matches('input[type=radio], input[type=checkbox]') ? e.closest('label') ?? e : e;
    const middle = () => { const r = pressed.getBoundingClientRect(); return [r.left + Math.min(r.width / 2, 60), r.top + r.height / 2]; };
    const seen = () => { const at = document.elementFromPoint(...middle()); return at !== null && (pressed.contains(at) || at.contains(pressed)); };
    const scrolled = !seen();
    if (scrolled) pressed.scrollIntoView({ block: 'center' });
    return [...middle(), scrolled, seen()]";

impl<'a> Hand<'a> {
    pub(crate) const fn new(b: &'a Browser, by: By) -> Self {
        Self {
            b,
            by,
            actions: 0,
            scrolls: 0,
        }
    }

    /// Something done that is not done to a control, such as a file that is dropped.
    pub(crate) const fn did(&mut self) {
        self.actions += 1;
    }

    /// Presses a button, a link, a tab, a box to tick.
    pub(crate) async fn press(&mut self, css: &str) -> Result<()> {
        self.actions += 1;
        self.take(css).await
    }

    /// Types over a figure.
    pub(crate) async fn fill(&mut self, css: &str, text: &str) -> Result<()> {
        self.actions += 1;
        self.take(css).await?;
        let all = self.b.hand().key_down(Key::Control).send_keys("a");
        all.key_up(Key::Control).perform().await?;
        self.b
            .hand()
            .send_keys(text)
            .send_keys(Key::Enter)
            .perform()
            .await?;
        Ok(())
    }

    /// Chooses from a list by a part of its text.
    pub(crate) async fn choose(&mut self, css: &str, option: &str) -> Result<()> {
        self.actions += 1;
        self.rests().await?;
        if self.by != By::Keys {
            self.at(css).await?;
            // The list that unfolds is the system's own, which no test can press.
            return self.b.choose(css, option).await;
        }
        self.focus(css).await?;
        // A list is searched by the first letters that are typed.
        self.b.hand().send_keys(option).perform().await?;
        let script = "const s = document.querySelector(arguments[0]); return s.selectedOptions[0].text.includes(arguments[1])";
        let found = self
            .b
            .page
            .execute(script, vec![json!(css), json!(option)])
            .await?;
        ensure!(
            found.json().as_bool() == Some(true),
            "{css} has no {option}"
        );
        Ok(())
    }

    /// Picks, by a double press, what lies at a place of the bench, mm, and all of its kind; by key the first that
    /// the page tells with these words.
    pub(crate) async fn pick_alike(
        &mut self,
        place: (f64, f64),
        (told, words): (&str, &str),
    ) -> Result<()> {
        self.actions += 1;
        self.rests().await?;
        if self.by != By::Keys {
            let (x, y) = self.b.on_screen(place).await?;
            return self.tap_twice(x as f64, y as f64).await;
        }
        self.focus("#bench canvas").await?;
        for _ in 0..STOPS {
            self.b.hand().send_keys(Key::Tab).perform().await?;
            if self.b.text(told).await?.contains(words) {
                let all = self.b.hand().key_down(Key::Shift).send_keys(Key::Enter);
                return Ok(all.key_up(Key::Shift).perform().await?);
            }
        }
        bail!("no key picks what is told as {words}")
    }

    /// Whoever works looks first: what was done before is there.
    async fn rests(&self) -> Result<()> {
        let rests =
            "return !document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling')";
        self.b.until("the page rests", rests).await
    }

    async fn take(&mut self, css: &str) -> Result<()> {
        self.rests().await?;
        self.b.find(css).await?;
        if self.by == By::Keys {
            self.focus(css).await?;
            let script = "const e = document.activeElement; return e.matches('[role=tab], input[type=radio]') ? '' : e.matches('input[type=checkbox]') ? ' ' : 'Enter'";
            let key = self.b.page.execute(script, vec![]).await?;
            let hand = self.b.hand();
            match key.json().as_str() {
                Some("Enter") => hand.send_keys(Key::Enter).perform().await?,
                Some(" ") => hand.send_keys(" ").perform().await?,
                // The arrows have chosen it.
                _ => {}
            }
            return Ok(());
        }
        let (x, y) = self.at(css).await?;
        self.tap(x, y).await
    }

    /// Where an element is, scrolled to where it is out of sight.
    async fn at(&mut self, css: &str) -> Result<(f64, f64)> {
        self.b.find(css).await?;
        let found = self.b.page.execute(PLACE, vec![json!(css)]).await?;
        let (x, y, scrolled, free): (f64, f64, bool, bool) =
            serde_json::from_value(found.json().clone())?;
        self.scrolls += u32::from(scrolled);
        ensure!(free, "something lies over {css}");
        Ok((x, y))
    }

    async fn tap_twice(&self, x: f64, y: f64) -> Result<()> {
        if self.by == By::Touch {
            tokio::time::sleep(APART).await;
            self.touch(x, y).await?;
            return self.touch(x, y).await;
        }
        let hand = self.b.hand().move_to(x.round() as i64, y.round() as i64);
        Ok(hand.double_click().perform().await?)
    }

    async fn touch(&self, x: f64, y: f64) -> Result<()> {
        let cdp = self.b.page.cdp();
        for (kind, points) in [
            ("touchStart", json!([{ "x": x, "y": y }])),
            ("touchEnd", json!([])),
        ] {
            let touch = json!({ "type": kind, "touchPoints": points });
            cdp.send_raw("Input.dispatchTouchEvent", touch).await?;
        }
        Ok(())
    }

    async fn tap(&self, x: f64, y: f64) -> Result<()> {
        if self.by == By::Touch {
            tokio::time::sleep(APART).await;
            return self.touch(x, y).await;
        }
        let hand = self.b.hand().move_to(x.round() as i64, y.round() as i64);
        hand.click().perform().await?;
        Ok(())
    }

    /// Brings the focus to an element by Tab and arrows.
    async fn focus(&self, css: &str) -> Result<()> {
        for _ in 0..STOPS {
            let way = self.b.page.execute(WAY, vec![json!(css)]).await?;
            let hand = self.b.hand();
            let hand = match way.json().as_str().context("a way")? {
                "there" => return Ok(()),
                "arrow" => hand.send_keys(Key::Right),
                "back" => hand
                    .key_down(Key::Shift)
                    .send_keys(Key::Tab)
                    .key_up(Key::Shift),
                _ => hand.send_keys(Key::Tab),
            };
            hand.perform().await?;
        }
        bail!("no key leads to {css}")
    }
}
