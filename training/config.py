"""Reads the one file that holds every choice of the training."""

from __future__ import annotations

import argparse
import tomllib
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent
Config = dict[str, Any]


def load_config(override: Path | None = None, work: Path | None = None) -> Config:
    """`config.toml`, with the tables of `override` laid over it and another work folder if given.

    Raises:
        ValueError: the override names a table or key that config.toml does not have.
    """
    config: Config = tomllib.loads((HERE / "config.toml").read_text())
    if override is not None:
        for table, values in tomllib.loads(override.read_text()).items():
            if table not in config:
                raise ValueError(f"{override} has a table that the training does not know: {table}")
            if unknown := set(values) - set(config[table]):
                raise ValueError(f"{override} has keys that [{table}] does not know: {sorted(unknown)}")
            config[table] |= values
    if work is not None:
        config["work"] = str(work)
    return config


def arguments(description: str | None) -> argparse.ArgumentParser:
    """A command line that knows `--config` and `--work`."""
    parser = argparse.ArgumentParser(description=description)
    parser.add_argument("--config", type=Path, help="a file that overrides some of config.toml")
    parser.add_argument("--work", type=Path, help="another folder for scenes and checkpoints")
    return parser


def work_folder(config: Config) -> Path:
    """The folder for scenes and checkpoints, made if missing."""
    folder = Path(config["work"])
    folder = folder if folder.is_absolute() else HERE.parent / folder
    folder.mkdir(parents=True, exist_ok=True)
    return folder
