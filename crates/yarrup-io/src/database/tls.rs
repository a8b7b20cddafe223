//! Encrypted connections to PostgreSQL.

use std::path::Path;
use std::sync::Arc;

use rustls::client::danger::{HandshakeSignatureValid, ServerCertVerified, ServerCertVerifier};
use rustls::crypto::{CryptoProvider, ring, verify_tls12_signature, verify_tls13_signature};
use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, ServerName, UnixTime};
use rustls::{ClientConfig, DigitallySignedStruct, Error, RootCertStore, SignatureScheme};
use tokio_postgres_rustls::MakeRustlsConnect;

/// What encrypts a connection. Where it is not `checked`, any certificate will do, as PostgreSQL's modes `prefer` and `require` have it.
pub(super) fn connector(checked: bool, certificates: Option<&Path>) -> Result<MakeRustlsConnect, String> {
    let provider = Arc::new(ring::default_provider());
    let builder = ClientConfig::builder_with_provider(provider.clone())
        .with_safe_default_protocol_versions()
        .map_err(|why| why.to_string())?;
    let config = if checked {
        builder.with_root_certificates(roots(certificates)?).with_no_client_auth()
    } else {
        let any = Arc::new(AnyCertificate(provider));
        builder.dangerous().with_custom_certificate_verifier(any).with_no_client_auth()
    };
    Ok(MakeRustlsConnect::new(config))
}

/// The authorities: those of a file, or the usual ones.
fn roots(certificates: Option<&Path>) -> Result<RootCertStore, String> {
    let Some(path) = certificates else {
        return Ok(RootCertStore { roots: webpki_roots::TLS_SERVER_ROOTS.to_vec() });
    };
    let refused = |why: &dyn std::fmt::Display| format!("the certificates of {}: {why}", path.display());
    let mut roots = RootCertStore::empty();
    for certificate in CertificateDer::pem_file_iter(path).map_err(|why| refused(&why))? {
        roots.add(certificate.map_err(|why| refused(&why))?).map_err(|why| refused(&why))?;
    }
    if roots.is_empty() {
        return Err(refused(&"the file holds none"));
    }
    Ok(roots)
}

/// Takes any certificate; that the server has its key is checked.
#[derive(Debug)]
struct AnyCertificate(Arc<CryptoProvider>);

impl ServerCertVerifier for AnyCertificate {
    fn verify_server_cert(
        &self,
        _end_entity: &CertificateDer<'_>,
        _intermediates: &[CertificateDer<'_>],
        _server_name: &ServerName<'_>,
        _ocsp_response: &[u8],
        _now: UnixTime,
    ) -> Result<ServerCertVerified, Error> {
        Ok(ServerCertVerified::assertion())
    }

    fn verify_tls12_signature(
        &self,
        message: &[u8],
        certificate: &CertificateDer<'_>,
        signed: &DigitallySignedStruct,
    ) -> Result<HandshakeSignatureValid, Error> {
        verify_tls12_signature(message, certificate, signed, &self.0.signature_verification_algorithms)
    }

    fn verify_tls13_signature(
        &self,
        message: &[u8],
        certificate: &CertificateDer<'_>,
        signed: &DigitallySignedStruct,
    ) -> Result<HandshakeSignatureValid, Error> {
        verify_tls13_signature(message, certificate, signed, &self.0.signature_verification_algorithms)
    }

    fn supported_verify_schemes(&self) -> Vec<SignatureScheme> {
        self.0.signature_verification_algorithms.supported_schemes()
    }
}
