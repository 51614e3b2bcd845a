"""A certificate authority of the yard's own, good for this machine's name and private addresses and nothing else."""

import ipaddress
import os
import socket
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

Address = ipaddress.IPv4Address | ipaddress.IPv6Address
AUTHORITY_DAYS: Final = 3650
LEAF_DAYS: Final = 397
"""Phones trust none that lasts longer."""
RENEWED_DAYS: Final = 30
PRIVATE: Final = tuple(
    ipaddress.ip_network(one) for one in ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "fd00::/8")
)
NOWHERE: Final = ("10.255.255.255", 1)
"""Asked for the way there, a machine names the address it would go from; nothing is sent."""


@dataclass(frozen=True, slots=True)
class Papers:
    """Where the yard's certificates lie."""

    authority: Path
    leaf: Path
    key: Path


def own_addresses() -> list[Address]:
    """Return this machine's private addresses; none where it has no network."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as way:
        try:
            way.connect(NOWHERE)
            found = ipaddress.ip_address(way.getsockname()[0])
        except OSError:
            return []
    return [found] if found.is_private and not found.is_loopback else []


def own_names() -> list[str]:
    """Return the names this machine goes by on its network."""
    name = socket.gethostname().split(".")[0].lower()
    return [name, f"{name}.local"]


def papers(folder: Path, addresses: Iterable[Address], names: Iterable[str]) -> Papers:
    """Return the yard's certificates, made where they are missing, run out, or are for other addresses.

    Parameters
    ----------
    folder : where they are kept
    addresses, names : of this machine

    Returns
    -------
    files of the authority, of the leaf with its chain, and of the leaf's key
    """
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    wanted = [*map(x509.IPAddress, addresses), *map(x509.DNSName, names)]
    found = Papers(folder / "keeve-yard.crt", folder / "leaf.pem", folder / "leaf.key")
    authority, key = _authority(folder, found.authority, wanted)
    if not _still_good(found, wanted, authority):
        _make_leaf(found, wanted, authority, key)
    return found


def _authority(
    folder: Path, path: Path, wanted: list[x509.GeneralName]
) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey]:
    key_path = folder / "authority.key"
    try:
        key = serialization.load_pem_private_key(key_path.read_bytes(), None)
        kept = x509.load_der_x509_certificate(path.read_bytes())
        if isinstance(key, ec.EllipticCurvePrivateKey) and _allows(kept, wanted):
            return kept, key
    except (OSError, ValueError):
        pass
    key = ec.generate_private_key(ec.SECP256R1())
    made = _signed_by_itself(key, wanted)
    _write(key_path, _pem(key))
    _write(path, made.public_bytes(serialization.Encoding.DER))
    return made, key


def _allowed(wanted: list[x509.GeneralName]) -> list[x509.GeneralName]:
    """Return what the authority may vouch for: private networks, this machine's own names and addresses."""
    own = [
        x509.IPAddress(ipaddress.ip_network(one.value))
        for one in wanted
        if isinstance(one, x509.IPAddress) and not any(one.value in network for network in PRIVATE)
    ]
    names = [one for one in wanted if isinstance(one, x509.DNSName)]
    return [*map(x509.IPAddress, PRIVATE), *own, *names]


def _allows(authority: x509.Certificate, wanted: list[x509.GeneralName]) -> bool:
    """Whether the authority of before may vouch for what is wanted now."""
    found = authority.extensions.get_extension_for_class(x509.NameConstraints).value.permitted_subtrees or []
    fresh = authority.not_valid_after_utc > datetime.now(UTC) + timedelta(days=LEAF_DAYS)
    return fresh and all(one in found for one in _allowed(wanted))


def _signed_by_itself(key: ec.EllipticCurvePrivateKey, wanted: list[x509.GeneralName]) -> x509.Certificate:
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Keeve on {socket.gethostname()}"[:64])])
    now = datetime.now(UTC)
    usage = x509.KeyUsage(
        digital_signature=False, content_commitment=False, key_encipherment=False, data_encipherment=False,
        key_agreement=False, key_cert_sign=True, crl_sign=True, encipher_only=False, decipher_only=False,
    )  # fmt: skip
    return (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=AUTHORITY_DAYS))
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(usage, critical=True)
        .add_extension(x509.NameConstraints(_allowed(wanted), None), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .sign(key, hashes.SHA256())
    )


def _make_leaf(
    found: Papers, wanted: list[x509.GeneralName], authority: x509.Certificate, signer: ec.EllipticCurvePrivateKey
) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    now = datetime.now(UTC)
    by = x509.AuthorityKeyIdentifier.from_issuer_public_key(signer.public_key())
    made = (
        x509.CertificateBuilder()
        .subject_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Keeve")]))
        .issuer_name(authority.subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=LEAF_DAYS))
        .add_extension(x509.SubjectAlternativeName(wanted), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(by, critical=False)
        .sign(signer, hashes.SHA256())
    )
    pem = serialization.Encoding.PEM
    _write(found.key, _pem(key))
    _write(found.leaf, made.public_bytes(pem) + authority.public_bytes(pem))


def _still_good(found: Papers, wanted: list[x509.GeneralName], authority: x509.Certificate) -> bool:
    try:
        leaf = x509.load_pem_x509_certificate(found.leaf.read_bytes())
        key = serialization.load_pem_private_key(found.key.read_bytes(), None)
        leaf.verify_directly_issued_by(authority)
    except (OSError, ValueError, TypeError):
        return False
    except Exception:
        return False
    named = list(leaf.extensions.get_extension_for_class(x509.SubjectAlternativeName).value)
    fresh = leaf.not_valid_after_utc > datetime.now(UTC) + timedelta(days=RENEWED_DAYS)
    return fresh and named == wanted and key.public_key() == leaf.public_key()


def _pem(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )  # fmt: skip


def _write(path: Path, what: bytes) -> None:
    """Write a file that nobody else may read, whole or not at all."""
    new = path.with_name(f"{path.name}.{os.getpid()}")
    new.unlink(missing_ok=True)
    with os.fdopen(os.open(new, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
        file.write(what)
    new.replace(path)
