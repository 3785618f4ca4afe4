"""A certificate of the shop's own, so that browsers on the shop's network allow what they allow only on a
safe connection: installing, and work without network.

An authority is made, signs the one certificate, and its key is thrown away at once: whoever installs the
authority on a telephone trusts this one server by it and nothing else, since it may sign only for the names
of this machine (RFC 5280, 4.2.1.10) and nobody can sign with it any more.
"""

from __future__ import annotations

import ipaddress
import socket
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from anvilsong.store.files import make_private
from anvilsong.web.door.addresses import own_names, own_numbers

if TYPE_CHECKING:
    from cryptography import x509

VALID_DAYS = 390  # telephones refuse certificates that hold much longer than a year
RENEWED_DAYS = 30


@dataclass(frozen=True)
class Certificate:
    """Files of a certificate: its key and chain for the server, and the authority for other devices."""

    key: Path
    chain: Path
    authority: Path


def certificate_of(data: Path) -> Certificate:
    """The certificate of a logbook's server; made anew when it is missing, soon ends, or this machine has
    another address than when it was made.
    """
    files = Certificate(*(data.with_name(f".{data.name}.{end}") for end in ("key", "chain", "authority")))
    names = {"localhost", socket.gethostname().lower(), *own_names()}
    numbers = {"127.0.0.1", "::1", *own_numbers()}
    if not _still_holds(files, names | numbers):
        _make(files, sorted(names), sorted(numbers))
    return files


def _still_holds(files: Certificate, wanted: set[str]) -> bool:
    from cryptography import x509
    from cryptography.exceptions import InvalidSignature
    from cryptography.hazmat.primitives.serialization import load_pem_private_key

    try:
        cert = x509.load_pem_x509_certificate(files.chain.read_bytes())
        held = cert.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        has = {str(name.value) for name in held}
        ends = cert.not_valid_after_utc
        key = load_pem_private_key(files.key.read_bytes(), None)
        authority = x509.load_pem_x509_certificate(files.authority.read_bytes())
        cert.verify_directly_issued_by(authority)
    except (OSError, ValueError, TypeError, InvalidSignature, x509.ExtensionNotFound):
        return False
    return (
        key.public_key() == cert.public_key()
        and wanted <= has
        and ends > datetime.now(UTC) + timedelta(days=RENEWED_DAYS)
    )


def _make(files: Certificate, names: list[str], numbers: list[str]) -> None:
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes
    from cryptography.hazmat.primitives.asymmetric import ec
    from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat
    from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

    start = datetime.now(UTC) - timedelta(days=1)
    end = start + timedelta(days=VALID_DAYS)
    ips = [ipaddress.ip_address(number) for number in numbers]
    authority_key, key = ec.generate_private_key(ec.SECP256R1()), ec.generate_private_key(ec.SECP256R1())

    def called(words: str) -> x509.Name:
        return x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, words[:64])])

    authority_name = called(f"Anvilsong on {socket.gethostname()}")
    common = (
        x509.CertificateBuilder().issuer_name(authority_name).not_valid_before(start).not_valid_after(end)
    )
    only_here = x509.NameConstraints(
        permitted_subtrees=[
            *(x509.DNSName(name) for name in names),
            *(x509.IPAddress(ipaddress.ip_network(ip)) for ip in ips),
        ],
        excluded_subtrees=None,
    )
    authority = (
        common.subject_name(authority_name)
        .public_key(authority_key.public_key())
        .serial_number(x509.random_serial_number())
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(only_here, critical=True)
        .add_extension(_usage(signs=True), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(authority_key.public_key()), critical=False)
        .sign(authority_key, hashes.SHA256())
    )
    cert = (
        common.subject_name(called(names[0]))
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(
            x509.SubjectAlternativeName([*map(x509.DNSName, names), *map(x509.IPAddress, ips)]),
            critical=False,
        )
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(_usage(signs=False), critical=True)
        .add_extension(
            x509.AuthorityKeyIdentifier.from_issuer_public_key(authority_key.public_key()), critical=False
        )
        .sign(authority_key, hashes.SHA256())
    )
    pem = Encoding.PEM
    make_private(files.key).write_bytes(key.private_bytes(pem, PrivateFormat.PKCS8, NoEncryption()))
    files.authority.write_bytes(authority.public_bytes(pem))
    files.chain.write_bytes(cert.public_bytes(pem) + authority.public_bytes(pem))


def _usage(signs: bool) -> x509.KeyUsage:
    """What a key may be used for: signing certificates, or serving."""
    from cryptography import x509

    return x509.KeyUsage(
        digital_signature=not signs,
        content_commitment=False,
        key_encipherment=False,
        data_encipherment=False,
        key_agreement=False,
        key_cert_sign=signs,
        crl_sign=signs,
        encipher_only=False,
        decipher_only=False,
    )
