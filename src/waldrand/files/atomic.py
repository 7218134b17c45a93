"""Writing a file whole or not at all."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

from ..core.refused import Refused


def write_atomically(path: Path, write: Callable[[BinaryIO], object]) -> None:
    """Writes beside `path` and then takes its place, so that the old file is whole until the new one is.

    Raises:
        Refused: no space, no right, no such folder: in a sentence.
    """
    temporary: Path | None = None
    try:
        with tempfile.NamedTemporaryFile(dir=path.parent, prefix=f".{path.name}.", delete=False) as f:
            temporary = Path(f.name)
            write(f)  # type: ignore[arg-type]
            f.flush()
            os.fsync(f.fileno())
        temporary.chmod(path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask())
        os.replace(temporary, path)
    except OSError as error:
        raise Refused(
            f"{path} could not be written: {error.strerror or error}. Nothing was lost; make room or choose another place."
        ) from error
    finally:
        if temporary is not None and temporary.exists():
            temporary.unlink()


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
