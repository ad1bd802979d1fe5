//! Colours: on a terminal only, and never when `NO_COLOR` is set.

use anstyle::{AnsiColor, Style};
use clap::ValueEnum;
use std::fmt::Display;
use std::io::IsTerminal;

/// When to use colours.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum ColorChoice {
    /// On a terminal, unless `NO_COLOR` is set; elsewhere when `CLICOLOR_FORCE` is.
    #[default]
    Auto,
    /// Always.
    Always,
    /// Never.
    Never,
}

/// What a piece of text is, and so how it looks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Tone {
    /// Where something is.
    Place,
    /// What is wrong.
    Bad,
    /// Worth a look.
    Doubt,
    /// What holds.
    Good,
    /// A way out.
    Help,
    /// What is there for orientation only.
    Quiet,
}

/// Paints text, or leaves it plain.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Paint {
    colored: bool,
}

impl Paint {
    /// No colours.
    pub(crate) fn plain() -> Self {
        Paint { colored: false }
    }

    pub(crate) fn for_stdout(choice: ColorChoice) -> Self {
        Paint { colored: wanted(choice, std::io::stdout().is_terminal()) }
    }

    pub(crate) fn for_stderr(choice: ColorChoice) -> Self {
        Paint { colored: wanted(choice, std::io::stderr().is_terminal()) }
    }

    /// `text` as its tone looks.
    pub(crate) fn tone(self, tone: Tone, text: impl Display) -> String {
        if !self.colored {
            return text.to_string();
        }
        let style = match tone {
            Tone::Place => Style::new().bold(),
            Tone::Bad => Style::new().fg_color(Some(AnsiColor::BrightMagenta.into())).bold(),
            Tone::Doubt => Style::new().fg_color(Some(AnsiColor::BrightYellow.into())).bold(),
            Tone::Good => Style::new().fg_color(Some(AnsiColor::BrightGreen.into())).bold(),
            Tone::Help => Style::new().fg_color(Some(AnsiColor::BrightCyan.into())),
            Tone::Quiet => Style::new().dimmed(),
        };
        format!("{}{text}{}", style.render(), style.render_reset())
    }
}

fn wanted(choice: ColorChoice, terminal: bool) -> bool {
    let set = |name: &str| std::env::var_os(name).is_some_and(|value| !value.is_empty());
    match choice {
        ColorChoice::Always => true,
        ColorChoice::Never => false,
        ColorChoice::Auto if set("NO_COLOR") => false,
        ColorChoice::Auto => terminal || std::env::var_os("CLICOLOR_FORCE").is_some_and(|value| value != "0"),
    }
}
