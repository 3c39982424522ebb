//! TLS by rustls: a certificate and its key from PEM files (RFC 7468).

use std::path::{Path, PathBuf};
use std::sync::Arc;

use rustls::ServerConfig;
use rustls::crypto::ring::default_provider;
use rustls::pki_types::pem::{self, PemObject as _};
use rustls::pki_types::{CertificateDer, PrivateKeyDer};

/// Why there is no TLS.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum TlsError {
    /// A file that holds no certificate.
    #[error(
        "the certificate file {0} cannot be used: {1}; it holds one or more certificates as PEM"
    )]
    Certificate(PathBuf, pem::Error),
    /// A file that holds no key.
    #[error("the key file {0} cannot be used: {1}; it holds the certificate's private key as PEM")]
    Key(PathBuf, pem::Error),
    /// Certificate and key that do not go together.
    #[error("the certificate {0} and the key {1} cannot be used together: {2}")]
    Together(PathBuf, PathBuf, rustls::Error),
}

/// What the server needs to speak TLS 1.2 and 1.3.
///
/// # Errors
/// [`TlsError`] says which file is wrong.
pub(crate) fn config(certificate: &Path, key: &Path) -> Result<ServerConfig, TlsError> {
    let bad = |e| TlsError::Certificate(certificate.to_owned(), e);
    let chain = CertificateDer::pem_file_iter(certificate).map_err(bad)?;
    let chain = chain.collect::<Result<Vec<_>, _>>().map_err(bad)?;
    if chain.is_empty() {
        return Err(bad(pem::Error::NoItemsFound));
    }
    let private = PrivateKeyDer::from_pem_file(key);
    let private = private.map_err(|e| TlsError::Key(key.to_owned(), e))?;
    let together = |e| TlsError::Together(certificate.to_owned(), key.to_owned(), e);
    ServerConfig::builder_with_provider(Arc::new(default_provider()))
        .with_safe_default_protocol_versions()
        .and_then(|builder| {
            let open = builder.with_no_client_auth();
            open.with_single_cert(chain, private)
        })
        .map_err(together)
}
