"""The menus and keys: what each entry is called, its keys, and what it sets going. A command of the window is a line in one of these."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QMenuBar

from ..core.values.shaping import Edge
from ..core.worded import worded
from .bench import Bench
from .preferences import recent_files

#: An entry of a menu: its text, what it does, its keys; an action or a menu made elsewhere; or a line between.
Entry = tuple[object, ...] | QAction | QMenu | None


WithPath = Callable[[Callable[[Path], object]], None]


def sheet_menu(b: Bench) -> tuple[Entry, ...]:
    f, s = b.opening, b.saving
    return (
        ("New…", f.new_sheet, "Ctrl+N"),
        ("Open…", f.open_any, "Ctrl+O"),
        recent_menu(f.drop_in),
        ("Open the demo", f.open_demo),
        ("Start from a picture's recipe…", f.start_from_recipe),
        ("Add a picture as a layer…", b.ask_for_picture),
        None,
        ("Size of the sheet…", b.sizing.change_size),
        ("Crop to the chosen element", b.sizing.crop_to_chosen),
        None,
        ("Save", s.save, "Ctrl+S"),
        ("Save as…", s.save_as, "Ctrl+Shift+S"),
        ("Export PNG…", s.export_png, "Ctrl+E"),
        ("Export JPEG, TIFF or WebP…", s.export_other, "Ctrl+Shift+E"),
        ("Export layout…", s.export_layout),
        ("Export colour map…", b.export_colours),
    )


def recent_menu(act: Callable[[Path], object]) -> QMenu:
    """The files opened lately, as they are when it is opened."""
    menu = QMenu(worded("Open again"))

    def fill_in() -> None:
        menu.clear()
        for path in recent_files():
            menu.addAction(path.name, partial(act, path)).setToolTip(str(path))  # type: ignore[union-attr]
        if menu.isEmpty():
            menu.addAction(worded("nothing yet")).setEnabled(False)  # type: ignore[union-attr]

    menu.aboutToShow.connect(fill_in)
    return menu


def run_many_menu(act: Callable[[int], object]) -> QMenu:
    """A run of so many takes, by a number key."""
    menu = QMenu(worded("Run so many takes"))
    for n in range(1, 10):
        menu.addAction(action(menu, worded("{0} takes", n) if n > 1 else worded("1 take"), partial(act, n), f"Ctrl+{n}"))
    return menu


def edit_menu(b: Bench, *history: QAction) -> tuple[Entry, ...]:
    a = b.arranging
    return (
        *history,
        None,
        ("Cut", a.cut, "Ctrl+X"),
        ("Copy", a.copy, "Ctrl+C"),
        ("Paste", a.paste, "Ctrl+V"),
        ("Duplicate", a.duplicate, "Ctrl+D"),
        ("Delete what is chosen", b.delete, "Delete"),
        None,
        ("Choose all", b.view.selection.choose_all, "Ctrl+A"),
        ("Edit words on the sheet", a.edit_words, "F2"),
        ("Kept words…", b.keeping_words.show, "Ctrl+Shift+W"),
        ("House words for new sheets of this folder", b.keeping_words.keep_for_folder),
        ("Nearer", partial(a.move_depth, 1), "PgDown"),
        ("Farther", partial(a.move_depth, -1), "PgUp"),
    )


def outline_menu(b: Bench, with_path: WithPath) -> tuple[Entry, ...]:
    a, o = b.arranging, b.outlines
    edges: tuple[Edge, ...] = ("left", "centre", "right", "top", "middle", "bottom")
    return (
        ("Give places to what the scene names", a.give_places, "Ctrl+L"),
        ("Other places", a.other_places, "Ctrl+Shift+L"),
        ("Divide by shares…", a.divide, "Shift+I"),
        ("Elements from a colour map…", partial(with_path, b.maps.take_colours)),
        ("Element from a mask or cut-out…", partial(with_path, b.maps.take_outline)),
        None,
        ("Figure as outline", o.figure_as_outline, "Shift+F"),
        ("Another figure", o.another_figure, "Ctrl+Shift+F"),
        ("Smooth…", o.smooth),
        ("Grow…", partial(o.grow, 1)),
        ("Shrink…", partial(o.grow, -1)),
        ("Invert", o.invert),
        ("Fill holes", o.fill),
        ("Mirror", o.mirror, "H"),
        ("Mirror upside down", partial(o.mirror, True), "Shift+H"),
        ("Rotate…", o.rotate),
        None,
        ("Join the chosen", o.join, "Ctrl+J"),
        ("Cut the last chosen out of the others", o.cut_out),
        None,
        *((f"Align {edge}", partial(a.align, edge)) for edge in edges),
    )


def layer_menu(b: Bench, with_path: WithPath) -> tuple[Entry, ...]:
    y, c, g = b.layering, b.colouring, b.guiding
    return (
        ("New layer of colours", c.new_colours, "Ctrl+Shift+N"),
        ("Fill with the colour", c.fill_with_colour, "Shift+Backspace"),
        ("Fill with coloured noise…", c.fill_with_noise, "Ctrl+Shift+Backspace"),
        ("New lettering…", b.writing.new_letters),
        None,
        ("New drawing", g.new_drawing, "Ctrl+Shift+P"),
        ("Lines of this picture", g.lines_of_picture, "Ctrl+Shift+K"),
        ("Depth of this picture", g.depth_of_picture),
        ("Depth from a file…", partial(with_path, g.depth_from_file)),
        ("Turn near and far", g.turn_depth),
        ("Lend its look", g.use_as_look),
        ("Sketch, drawing or grounds as strokes", g.sketches_to_strokes),
        ("Smooth strokes", g.smooth_strokes),
        ("Straighten strokes", g.straighten_strokes),
        None,
        ("Merge with the layer below", y.merge_down, "Ctrl+Shift+D"),
        ("Group…", y.group, "Ctrl+G"),
        ("Mirror the layer", y.mirror),
        ("Mirror the layer upside down", partial(y.mirror, True)),
        ("At its own size", y.as_it_was),
        None,
        ("Seen under the mask alone", y.cover_by_mask),
        ("All of it seen", y.uncover),
        ("Mask from the layer", y.mask_from_layer),
        ("Clean a cut-out's edge", y.clean_edge),
        ("Remove a sketch's paper", y.remove_paper),
    )


def mask_menu(b: Bench, with_path: WithPath) -> tuple[Entry, ...]:
    brush, m, c = b.view.brush, b.maps, b.cutting
    return (
        ("Brush smaller", lambda: brush.set(radius=brush.radius / 1.25), "Q"),
        ("Brush larger", lambda: brush.set(radius=brush.radius * 1.25), "W"),
        ("Brush harder", lambda: brush.set(softness=brush.softness - 0.1), "Shift+Q"),
        ("Brush softer", lambda: brush.set(softness=brush.softness + 0.1), "Shift+W"),
        ("Eraser", lambda: brush.set(erasing=not brush.erasing), "X"),
        ("What drawn outlines become", b.bar.next_joining, "J"),
        None,
        ("Mask from the chosen outline", m.mask_from_outline),
        ("Element from the mask", m.outline_from_mask),
        ("Mask by words…", b.seeing.mask_by_words, "Shift+M"),
        ("Mask of the subject", c.mask_subject),
        ("Fit the mask to the picture", c.fit_mask, "Shift+J"),
        ("Invert mask", c.invert_mask),
        ("Grow mask…", partial(c.grow_mask, 1)),
        ("Shrink mask…", partial(c.grow_mask, -1)),
        ("Feather mask…", c.feather_mask),
        ("Smooth mask…", c.smooth_mask),
        ("Border of the mask…", c.border_mask),
        ("Grey of the mask…", c.grey_mask),
        ("What the mask covers as a layer", c.layer_from_mask, "Ctrl+Shift+J"),
        ("Move it away, and fill its place", b.uniting.lift, "Ctrl+Shift+U"),
        None,
        ("Keep the mask under a name", b.areas.keep, "Ctrl+M"),
        ("Hold it from now on", partial(b.areas.keep, True), "Ctrl+Shift+H"),
        ("Hold it, and mask all but it", b.areas.all_but_this, "Ctrl+Shift+A"),
        None,
        ("Load mask picture…", partial(with_path, m.take_mask)),
        ("Export mask…", b.areas.export_mask),
        ("Clear mask", m.empty_mask),
    )


def names_menu(
    title: str,
    names: Callable[[], list[str]],
    act: Callable[[str], object],
    ticked: Callable[[], str] | None = None,
    nothing: str = "no habit is kept yet",
) -> QMenu:
    """Names, as they are when it is opened. ticked: the one that is on, where one can be; then there is none, too; nothing: said where
    there are none."""
    menu = QMenu(worded(title))

    def fill_in() -> None:
        menu.clear()
        listed = names()
        for name in ([""] if ticked is not None else []) + listed:
            one = menu.addAction(name or worded("nothing"), partial(act, name))
            assert one is not None
            if ticked is not None:
                one.setCheckable(True)
                one.setChecked(name == ticked())
        if not listed:
            empty = menu.addAction(worded(nothing))
            assert empty is not None
            empty.setEnabled(False)

    menu.aboutToShow.connect(fill_in)
    return menu


def pass_menu(b: Bench) -> tuple[Entry, ...]:
    p, s, h = b.painting, b.series, b.habits
    return (
        ("Run, or line up", p.run, "Ctrl+Return", "Ctrl+Enter"),
        run_many_menu(p.run_takes),
        ("Stop", p.stop),
        ("Next seeds", b.passes.next_seeds, "N"),
        None,
        ("Scene words read off the picture", b.seeing.read_off_words),
        ("Elements of what is seen", b.seeing.elements_seen, "Ctrl+Shift+M"),
        None,
        ("Settle: a light rework of the whole", b.uniting.settle, "Shift+N"),
        ("Replay another sheet's passes…", partial(b.with_path, b.uniting.replay)),
        None,
        ("Edit by a sentence", h.turn_to_sentence, "Ctrl+I"),
        ("Enlarge and refine…", b.refining.enlarge, "Ctrl+R"),
        ("Touch up what is found", h.turn_to_touch_up, "Ctrl+U"),
        ("Keep this touch-up as a habit…", h.keep),
        names_menu("Touch up by habit", h.names, h.run),
        names_menu("After every take", h.names, h.after_takes, lambda: b.document.draft.habit),
        names_menu("Forget a habit", h.names, h.forget),
        None,
        names_menu("Add-on", b.adding_on.names, b.adding_on.add_named, nothing="no add-on is installed"),
        ("Add-on to the model…", partial(b.with_path, b.adding_on.add)),
        ("No add-ons", b.adding_on.none),
        None,
        ("Ladder of strengths", s.run_ladder, "L"),
        ("Try other words…", s.try_other_words),
        ("Try one or two settings…", s.vary, "Shift+L"),
        ("What does guidance do?", partial(s.show_setting, "guidance")),
        ("What does following drawings do?", partial(s.show_setting, "drawing_guidance")),
        ("What does the scene's weight do?", partial(s.show_setting, "scene-weight")),
    )


def takes_menu(b: Bench, difference: QAction) -> tuple[Entry, ...]:
    t, k, r = b.tray, b.takes, b.rerolling
    return (
        ("Keep take", k.keep, "K"),
        ("Keep only what the mask covers, or the chosen outlines", partial(k.keep, True), "Shift+K"),
        ("Drop take", k.drop_current, "D"),
        ("Bring back dropped takes", k.bring_back, "Shift+D"),
        ("Mark take", t.mark_current, "V"),
        ("Drop unmarked takes", k.drop_unmarked, "Shift+V"),
        None,
        ("Use the take's seed and settings", r.use, "U"),
        ("Keep the chosen elements' noise", r.use_for_chosen, "Shift+U"),
        ("Re-roll", r.reroll, "T"),
        ("Try again what missed", r.reroll_missed, "Shift+T"),
        ("Paint the chosen from nearer", r.paint_nearer, "Ctrl+T"),
        None,
        ("Sort by placement", t.sort_by_placement),
        ("Next take", partial(t.step, 1), "."),
        ("Last take", partial(t.step, -1), ","),
        ("Compare others with this take", t.compare, "C"),
        difference,
        ("All takes side by side…", k.show_all, "Y"),
    )


def view_menu(b: Bench, *switches: QAction) -> tuple[Entry, ...]:
    v = b.view
    return (
        ("Fit", v.fit, "0"),
        ("100 %", partial(v.zoom_to, 1.0), "1"),
        ("Closer", lambda: v.zoom_to(v.scale_now * 1.25), "+", "="),
        ("Farther off", lambda: v.zoom_to(v.scale_now / 1.25), "-"),
        *switches,
        None,
        ("Remember how it looks", b.looking_back.remember, "Ctrl+B"),
        ("Wipe against what was remembered", b.looking_back.wipe, "Shift+B"),
        None,
        ("All keys", b.show_keys, "F1"),
    )


def action(owner: QObject, text: str, act: Callable[[], object], *keys: str) -> QAction:
    """An entry that does something."""
    made = QAction(text, owner)
    made.setShortcuts([QKeySequence(k) for k in keys])
    made.setToolTip(text)
    made.triggered.connect(lambda _=False: act())
    return made


def switch(owner: QObject, text: str, act: Callable[[bool], object], on: bool, *keys: str) -> QAction:
    """An entry that is on or off."""
    made = QAction(text, owner)
    made.setShortcuts([QKeySequence(k) for k in keys])
    made.setCheckable(True)
    made.setChecked(on)
    made.toggled.connect(act)
    return made


def fill(bar: QMenuBar, title: str, entries: tuple[Entry, ...], before: Callable[[], None]) -> list[QAction]:
    """Puts a menu into the bar; returns its actions. before: done before what an entry does."""
    menu, out = bar.addMenu(worded(title)), []
    assert menu is not None
    for entry in entries:
        if entry is None:
            menu.addSeparator()
            continue
        if isinstance(entry, QMenu):
            # A menu keeps no menu that belongs to nobody.
            entry.setParent(menu, entry.windowFlags())
            menu.addMenu(entry)
            continue
        made = entry if isinstance(entry, QAction) else _acting(bar, before, *entry)
        menu.addAction(made)
        out.append(made)
    return out


def _acting(owner: QObject, before: Callable[[], None], *entry: object) -> QAction:
    text, act, *keys = entry
    assert callable(act)

    def acted() -> None:
        before()
        act()

    return action(owner, worded(str(text)), acted, *map(str, keys))
