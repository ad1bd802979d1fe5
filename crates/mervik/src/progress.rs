//! A progress bar on standard error: for work over a second, on a terminal only.

use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
use std::io::IsTerminal;
use std::time::{Duration, Instant};

/// How long work may go on before a bar appears.
const PATIENCE: Duration = Duration::from_secs(1);

/// The progress through one document.
pub(crate) struct Progress {
    bar: Option<ProgressBar>,
    size: Option<u64>,
    name: String,
    started: Instant,
    done: u64,
}

impl Progress {
    /// Nothing is shown yet. `size` in bytes, when it is known.
    pub(crate) fn new(name: &str, size: Option<u64>) -> Self {
        Progress { bar: None, size, name: name.to_owned(), started: Instant::now(), done: 0 }
    }

    /// So many more bytes are done.
    pub(crate) fn advance(&mut self, bytes: u64) {
        self.done += bytes;
        if self.bar.is_none() && self.started.elapsed() > PATIENCE && std::io::stderr().is_terminal() {
            self.bar = Some(self.start());
        }
        if let Some(bar) = &self.bar {
            bar.set_position(self.done);
        }
    }

    fn start(&self) -> ProgressBar {
        // It draws nothing before it is whole.
        let bar = ProgressBar::with_draw_target(self.size, ProgressDrawTarget::hidden());
        let template = match self.size {
            Some(_) => "{msg}  {wide_bar}  {bytes} of {total_bytes}, {eta} left",
            None => "{msg}  {bytes} so far",
        };
        if let Ok(style) = ProgressStyle::with_template(template) {
            bar.set_style(style.progress_chars("■■·"));
        }
        bar.set_message(self.name.clone());
        let bar = bar.with_elapsed(self.started.elapsed()).with_position(self.done);
        bar.set_draw_target(ProgressDrawTarget::stderr_with_hz(8));
        bar
    }

    /// Writes to standard output without the bar in between.
    pub(crate) fn suspend<R>(&self, write: impl FnOnce() -> R) -> R {
        match &self.bar {
            Some(bar) => bar.suspend(write),
            None => write(),
        }
    }

    /// Takes the bar away.
    pub(crate) fn finish(&mut self) {
        if let Some(bar) = self.bar.take() {
            bar.finish_and_clear();
        }
    }
}
