"""Judges a pack's finder on scenes it never saw: precision, recall and IoU of every label, worst first.

`python -m training.judge_finder [--config FILE] [--work DIR] [--pack DIR] [--reworked]`
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from .config import Config, arguments, load_config
from .export import OWN_PACK
from .from_pack import read_finder, read_latent
from .train_finder import UNSEEN, UNSEEN_REWORKED, Judged, build, judged, load_truth
from .world.scene import kinds


def judge(config: Config, pack: Path, pattern: str = UNSEEN, batches: int = 40) -> dict[str, Judged]:
    """Precision, recall (of pictures), IoU (of cells) and pictures with it, for each label."""
    net = build(config)
    net.load_state_dict(read_finder(pack))
    return judged(net, load_truth(config, read_latent(pack), pattern), batches)


def main() -> None:
    parser = arguments(__doc__)
    parser.add_argument("--pack", type=Path, default=OWN_PACK)
    parser.add_argument("--reworked", action="store_true", help="on unseen scenes that the denoiser reworked lightly")
    options = parser.parse_args()
    table = judge(load_config(options.config, options.work), options.pack, UNSEEN_REWORKED if options.reworked else UNSEEN)
    print("label                precision  recall    IoU  pictures")
    for name, row in sorted(table.items(), key=lambda item: item[1].overlap):
        if row.pictures:
            print(f"{name:20s} {row.precision:9.2f} {row.recall:7.2f} {row.overlap:6.2f} {row.pictures:9d}")
    of_kinds = [row for name, row in table.items() if name in kinds() and row.pictures]
    p, r, o = (np.mean([getattr(row, what) for row in of_kinds]) for what in ("precision", "recall", "overlap"))
    print(f"mean of {len(of_kinds)} kinds: precision {p:.3f} recall {r:.3f} IoU {o:.3f}")


if __name__ == "__main__":
    main()
