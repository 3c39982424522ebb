//! How sending stands, and why it may not go on.

/// How it stands.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Stand {
    /// Paths are being sent and done.
    Running,
    /// Nothing more is sent until it goes on.
    Paused,
    /// Stopped by hand; tool up, beam off.
    Stopped,
    /// All is done.
    Finished,
    /// It cannot go on.
    Failed(Trouble),
}

/// Why it cannot go on.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Trouble {
    /// No answer for [`super::SILENCE`].
    #[error("the machine does not answer; look at its cable and its power")]
    Silent,
    /// An answer that no such machine gives.
    #[error("the machine answered '{0}', which makes no sense; is it of another kind?")]
    Garbage(String),
    /// After a path it stands elsewhere, or never told that it is done.
    #[error(
        "after path {path} the machine does not stand where that ends; bytes were lost on the way, so look at what was cut"
    )]
    Elsewhere {
        /// Number of the path, from 1.
        path: usize,
    },
    /// A line that it refused.
    #[error("the machine refused '{line}': {why}")]
    Refused {
        /// What was sent.
        line: String,
        /// Its words.
        why: String,
    },
}
