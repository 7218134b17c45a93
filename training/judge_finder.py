"""Judges a pack's finder on scenes it never saw: precision, recall and IoU of every label, worst first.

`python -m training.judge_finder [--config FILE] [--work DIR] [--pack DIR] [--close | --reworked]`
"""

from __future__ import annotations

from pathlib import Path

from .config import Config, arguments, load_config
from .from_pack import finder_labels, read_finder, read_latent, with_more_labels
from .manifest import OWN_PACK
from .networks import Finder
from .train_finder import UNSEEN, UNSEEN_CLOSE, UNSEEN_REWORKED, Judged, build, judged, labels, load_truth, mean_of_kinds


def load_finder(config: Config, pack: Path) -> Finder:
    """A pack's finder as the network it was trained as.

    Raises:
        ValueError: the pack has no finder.
    """
    net = build(config)
    net.load_state_dict(with_more_labels(read_finder(pack)[0], net.state_dict(), finder_labels(pack), labels()))
    return net.eval()


def judge(config: Config, pack: Path, pattern: str = UNSEEN, batches: int = 40) -> dict[str, Judged]:
    """Precision, recall (of pictures), IoU (of cells) and pictures with it, for each label."""
    return judged(load_finder(config, pack), load_truth(config, read_latent(pack), pattern), batches)


def main() -> None:
    parser = arguments(__doc__)
    parser.add_argument("--pack", type=Path, default=OWN_PACK)
    which = parser.add_mutually_exclusive_group()
    which.add_argument("--close", dest="pattern", action="store_const", const=UNSEEN_CLOSE, help="on close views of unseen scenes")
    which.add_argument(
        "--reworked",
        dest="pattern",
        action="store_const",
        const=UNSEEN_REWORKED,
        help="on unseen scenes that the denoiser reworked lightly",
    )
    parser.set_defaults(pattern=UNSEEN)
    options = parser.parse_args()
    try:
        table = judge(load_config(options.config, options.work), options.pack, options.pattern)
    except ValueError as error:
        raise SystemExit(str(error)) from None
    print("label                precision  recall    IoU  pictures")
    for name, row in sorted(table.items(), key=lambda item: item[1].overlap):
        if row.pictures:
            print(f"{name:20s} {row.precision:9.2f} {row.recall:7.2f} {row.overlap:6.2f} {row.pictures:9d}")
    print(f"mean of the kinds: {mean_of_kinds(table)}")


if __name__ == "__main__":
    main()
