"""Judges a pack's finder on scenes it never saw: precision, recall and IoU of every label, worst first.

`python -m training.judge_finder [--config FILE] [--work DIR] [--pack DIR]`
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from .config import Config, arguments, load_config, work_folder
from .export import OWN_PACK
from .from_pack import read_finder, read_latent
from .samples import Scenes
from .train_finder import Judged, Truth, build, judged
from .world.scene import kinds


def judge(config: Config, pack: Path, batches: int = 40) -> dict[str, Judged]:
    """Precision, recall (of pictures), IoU (of cells) and pictures with it, for each label."""
    net = build(config)
    net.load_state_dict(read_finder(pack))
    scenes = Scenes(sorted((work_folder(config) / "scenes").glob("held-out-*.npz")))
    return judged(net, Truth(scenes, read_latent(pack), config["latent"]["shrink"], config["finder"]["cell_noise"]), batches)


def main() -> None:
    parser = arguments(__doc__)
    parser.add_argument("--pack", type=Path, default=OWN_PACK)
    options = parser.parse_args()
    table = judge(load_config(options.config, options.work), options.pack)
    print("label                precision  recall    IoU  pictures")
    for name, row in sorted(table.items(), key=lambda item: item[1].overlap):
        if row.pictures:
            print(f"{name:20s} {row.precision:9.2f} {row.recall:7.2f} {row.overlap:6.2f} {row.pictures:9d}")
    of_kinds = [row for name, row in table.items() if name in kinds() and row.pictures]
    p, r, o = (np.mean([getattr(row, what) for row in of_kinds]) for what in ("precision", "recall", "overlap"))
    print(f"mean of {len(of_kinds)} kinds: precision {p:.3f} recall {r:.3f} IoU {o:.3f}")


if __name__ == "__main__":
    main()
