//! What the code on a printed page says: its job, and which of the job's pages it is.

use inky_store::JobId;

/// So much of a page's key is said: another page agrees by chance once in sixteen million times.
const KEY: usize = 6;

/// `JOB 12 7F3A2C`: the number of the job, and the beginning of the key of its arrangement.
pub(crate) fn said(job: JobId, key: &str) -> String {
    let key: String = key.chars().take(KEY).collect();
    format!("JOB {job} {}", key.to_ascii_uppercase())
}

/// The job that a code names.
pub(crate) fn job_of(text: &str) -> Option<JobId> {
    let words: Vec<&str> = text.split_whitespace().collect();
    let [job, number, key] = words[..] else {
        return None;
    };
    let is_key = key.len() == KEY && key.chars().all(|c| c.is_ascii_hexdigit());
    let named = job.eq_ignore_ascii_case("job") && is_key;
    named.then(|| number.parse().ok()).flatten()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_code_says_names_its_job() {
        let code = said(12, "7f3a2c9b44");
        assert_eq!(code, "JOB 12 7F3A2C");
        assert_eq!(job_of(&code), Some(12));
        assert_eq!(job_of(" job 12  7f3a2c "), Some(12));
        for other in ["", "JOB 12", "JOB 12 7F3A2", "JOB x 7F3A2C", "the job 12"] {
            assert_eq!(job_of(other), None, "{other}");
        }
        assert!(inky_core::print::code::sayable(&said(99_999_999, "abcdef00")).is_ok());
    }
}
