"""Backups encrypted for whoever holds a key, in the open format of age: the machine that makes them cannot read them."""

from __future__ import annotations

import os
from pathlib import Path

import pyrage

from almanac.store.backups import BackupError


def new_key(file: Path) -> str:
    """Write a new key to a file that its owner alone reads; returns what backups are encrypted for.

    Raises
    ------
    BackupError : there is such a file already, or it cannot be written
    """
    identity = pyrage.x25519.Identity.generate()
    try:
        with os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as out:
            out.write(f"{identity}\n")
    except OSError as error:
        raise BackupError(f"cannot write {file}: {error.strerror} (choose another file)") from error
    return str(identity.to_public())


def seal(file: Path, recipient: str, to: Path) -> None:
    """Encrypt a file for a key.

    Raises
    ------
    BackupError : no such key, or it cannot be written
    """
    try:
        wanted = pyrage.x25519.Recipient.from_str(recipient.strip())
    except pyrage.RecipientError as error:
        raise BackupError("the backup key is none: it begins with age1 (bin/almanac backup-key FILE makes one)") from error
    try:
        os.close(os.open(to, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600))
        pyrage.encrypt_file(str(file), str(to), [wanted])
    except (OSError, pyrage.EncryptError) as error:
        raise BackupError(f"cannot encrypt {to}: {str(error).splitlines()[0]}") from error


def unseal(file: Path, key_file: Path, to: Path) -> None:
    """Decrypt a file with the key it was encrypted for.

    Raises
    ------
    BackupError : the key does not open it, or the file is cut
    """
    try:
        identity = pyrage.x25519.Identity.from_str(key_file.read_text().strip())
        os.close(os.open(to, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600))
        pyrage.decrypt_file(str(file), str(to), [identity])
    except (OSError, pyrage.IdentityError, pyrage.DecryptError) as error:
        to.unlink(missing_ok=True)
        raise BackupError(f"{file} is not opened by {key_file}: {str(error).splitlines()[0]} (it is cut, or of another key)") from error
