//! The guide inside the program: the tasks, what the figures and the checks mean, keys and trouble. One source
//! with `docs/guide`, which is built into the program with the pictures of `docs/screenshots`.

mod pages;
pub(crate) mod routes;

#[cfg(test)]
mod tests;
