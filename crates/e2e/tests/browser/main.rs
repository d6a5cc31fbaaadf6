//! The whole of it, through a browser. One program, so that its tests share the cores from the first to the last.

mod benches;
mod pages;
mod storm;
mod walk;
mod years;

use anyhow::Result;
use e2e::Browser;
use thirtyfour::prelude::*;

trait Ways {
    async fn press_text(&self, text: &str) -> Result<()>;
    async fn press_in_dialog(&self, text: &str) -> Result<()>;
}

impl Ways for Browser {
    /// Presses whatever holds a text.
    async fn press_text(&self, text: &str) -> Result<()> {
        Ok(self.sees(text).await?.click().await?)
    }
    async fn press_in_dialog(&self, text: &str) -> Result<()> {
        let path = format!("//*[@role='dialog']//button[normalize-space(.)='{text}']");
        let button = self.driver.query(By::XPath(path)).first().await?;
        button.scroll_into_view().await?;
        Ok(button.click().await?)
    }
}
