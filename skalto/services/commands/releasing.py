"""The command line's use case of a release: the files that rules make of a job file, in a folder, with their manifest."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from datetime import UTC, datetime
from fnmatch import fnmatchcase
from pathlib import Path
from typing import Any

import orjson

from skalto.core.errors import InputError
from skalto.core.recipes import SHIPPED_RECIPES, Recipe
from skalto.core.release.manifest import (
    CSV_NAME,
    JSON_NAME,
    Manifest,
    ManifestFile,
    manifest_csv,
    manifest_json,
    read_manifest,
)
from skalto.core.release.planning import Subject
from skalto.core.release.rules import SHIPPED_RULES, ReleaseRules, rules_from_json
from skalto.core.sheet_metal.facts import PatternFacts
from skalto.jobs.task import Task, TaskArgument
from skalto.services.output.plans import JobAtHand
from skalto.services.output.release_run import Runner
from skalto.services.output.releasing import FileWork, Releasable
from skalto.services.results.register import model_at_hand, rows_of
from skalto.services.running.here import WorkersHere, workers_here
from skalto.services.stored import keys
from skalto.services.stored.context import load_tree
from skalto.services.stored.jobfile import JobFile, read_job_file
from skalto.services.tasks.reading import ReadSource, read_source
from skalto.services.tasks.sheet_metal import FindSheets, HelpFindSheets, find_sheets, help_find_sheets
from skalto.settings import environment_settings
from skalto.store.outbox import Outbox

Told = Callable[[str], None]


def rules_named(text: str) -> ReleaseRules:
    """Rules by their file, their id or their name. :raises InputError: when there are none."""
    if text.lower().endswith(".json"):
        path = Path(text)
        if not path.is_file():
            raise InputError(f"There is no file {text}: check the name.")
        return rules_from_json(path.read_bytes())
    for rules in SHIPPED_RULES:
        if text.casefold() in (rules.id.casefold(), rules.name.casefold()):
            return rules
    known = ", ".join(rules.id for rules in SHIPPED_RULES)
    raise InputError(f"“{text}” are no release rules: name a .json file, or one of {known}.")


def _earlier(folder: str) -> Manifest | None:
    if not folder:
        return None
    path = Path(folder) / JSON_NAME
    if not path.is_file():
        raise InputError(f"{folder} has no {JSON_NAME}: name the folder of an earlier release.")
    return read_manifest(path.read_bytes())


def release_job(
    path: str,
    out: str,
    rules: str,
    only: Sequence[str] = (),
    changed_since: str = "",
    overwrite: bool = False,
    accepted: bool = False,
    told: Told = lambda text: None,
) -> dict[str, Any]:
    """Make the files that rules make of a job file, on as many workers as there are cores; what came of it as plain data.

    :param only: patterns of the marks, names, keys and components of parts, and of the names of sheets. :param changed_since:
        the folder of an earlier release: what has not changed since is not made. :param overwrite: whether files that no
        release left there are moved aside for those of their names. :param accepted: whether parts that
        look like sheet may go without their flat pattern. :param told: hears how far it is.
    :raises InputError: for a bad job file or rules, a source that is missing, and when something stands against it.
    """
    chosen, earlier = rules_named(rules), _earlier(changed_since)
    target = Path(out)
    if target.is_file():
        raise InputError(f"{out} is a file: name a folder.")
    file = read_job_file(Path(path))
    with workers_here() as here:
        told("Reading the models")
        _read(here, file, Path(path))
        releasable = _releasable(here, file)
        subjects = _chosen(releasable.subjects(), only)
        plan = releasable.plan(chosen, subjects)
        if stops := plan.stops(accepted):
            raise InputError(stops)
        target.mkdir(parents=True, exist_ok=True)
        outbox = Outbox(str(target.resolve()))
        known = earlier.known() if earlier is not None else {}
        same = earlier is not None and Path(changed_since).resolve() == target.resolve()
        waiting, lines, rows = [], [], []
        for work in releasable.work(plan):
            before = known.get(work.planned.path)
            unchanged = before is not None and before.content == work.planned.content
            if unchanged and before is not None and (not same or outbox.hash(before.file) == before.sha256):
                rows.append(_row(before, "kept"))
                lines += [before.model_copy(update={"made": False})] if same else []
            else:
                waiting.append(work)
        if same and only:
            mine = {own.path for own in plan.files}
            others = (line for path, line in known.items() if path not in mine and outbox.hash(path) == line.sha256)
            lines += [line.model_copy(update={"made": False}) for line in others]
        aside = f"{chosen.aside}/{datetime.now(UTC):%Y-%m-%d-%H%M%S}"
        left = _left(outbox)
        outgoing = [*(own.planned.path for own in waiting), CSV_NAME, JSON_NAME]
        strange = outbox.unknown({name: left.get(name, "") for name in outgoing})
        if strange and not overwrite:
            more = f" and {len(strange) - 1} more are" if len(strange) > 1 else " is"
            raise InputError(
                f"{target / strange[0]}{more} there already, and not as a release left it: give another folder, or --overwrite "
                "to have what is there moved aside."
            )
        made, failed = _made(here, waiting, outbox, aside, left if chosen.earlier == "replaced" else {}, told)
        lines += made
        rows += [_row(own, "made") for own in made] + failed
        manifest = Manifest(
            job=file.document.name, job_number=file.number, rules=chosen.name, rules_version=chosen.version,
            released=datetime.now(UTC), files=tuple(sorted(lines, key=lambda own: own.file)),
        )  # fmt: skip
        outbox.put(CSV_NAME, manifest_csv(manifest), aside, left.get(CSV_NAME, ""))
        outbox.put(JSON_NAME, manifest_json(manifest), aside, left.get(JSON_NAME, ""))
    rows.sort(key=lambda row: row["file"])
    counts = {name: sum(row["state"] == name for row in rows) for name in ("made", "kept", "failed")}
    moved = [f"{name} was there, and is moved into {aside}." for name in strange]
    return {"files": rows, **counts, "holds": not failed, "notices": [*plan.notices, *plan.held, *moved]}


def _left(outbox: Outbox) -> dict[str, str]:
    """The hashes of what the last release left in a folder; nothing where there was none."""
    try:
        return read_manifest(outbox.get(JSON_NAME)).hashes()
    except (KeyError, InputError):
        return {}


def _read(here: WorkersHere, file: JobFile, path: Path) -> None:
    found = file.found(path)
    limit = environment_settings().size_limit
    for source, place in found.items():
        here.blobs.put_file(keys.file_key(source), place)
    here.done(
        [
            (read_source, ReadSource(source=ref.id, name=ref.named, limit=limit))
            for ref in file.document.sources
            if ref.id in found
        ]
    )
    models = [ref.id for ref in file.document.sources if ref.id in found and not ref.drawing]
    looks: list[tuple[Task[Any], TaskArgument]] = []
    for source in models:
        looks += [(find_sheets, FindSheets(source=source)), (help_find_sheets, HelpFindSheets(source=source))]
    here.done(looks)


def _releasable(here: WorkersHere, file: JobFile) -> Releasable:
    models, trees = [], {}
    flats: dict[tuple[str, str], PatternFacts] = {}
    for ref in file.document.sources:
        if ref.drawing:
            continue
        looked = orjson.loads(here.blobs.get(f"{FindSheets(source=ref.id).key}.json"))
        models.append(model_at_hand(here.blobs, ref.id, ref.name, looked))
        trees[ref.id] = load_tree(here.blobs, ref.id)
        flats |= {
            (ref.id, path): PatternFacts.model_validate(row["facts"])
            for row in looked
            if row["facts"] is not None
            for path in row["components"]
        }
    recipes: dict[str, Recipe] = {own.id: own for own in (*SHIPPED_RECIPES, *file.document.recipes)}
    viewer = str(environment_settings().web / "viewer")
    return Releasable(
        JobAtHand(file.document, file.number), rows_of(file.document, models), trees, flats, recipes, viewer=viewer
    )  # fmt: skip


def _chosen(subjects: Sequence[Subject], only: Sequence[str]) -> list[Subject]:
    """The subjects that one of some patterns names; all without any. :raises InputError: when a pattern names none."""
    if not only:
        return list(subjects)
    found = []
    for pattern in only:
        named = [own for own in subjects if any(fnmatchcase(name.casefold(), pattern.casefold()) for name in _names(own))]
        if not named:
            raise InputError(f"“{pattern}” names no part and no sheet of the job: try *{pattern}*.")
        found += named
    return [own for own in subjects if own in found]


def _names(subject: Subject) -> list[str]:
    rows = [subject.row] if subject.row is not None else []
    names = [subject.called, subject.values.get("mark", ""), *(key for row in rows for key in row.keys)]
    return [name for name in (*names, *(path for row in rows for path in row.components)) if name]


def _made(
    here: WorkersHere, waiting: Sequence[FileWork], outbox: Outbox, aside: str, replaced: Mapping[str, str], told: Told
) -> tuple[list[ManifestFile], list[dict[str, Any]]]:
    """Make files, several at once; those that failed, each with its sentence."""
    runner = Runner(here.blobs, here.queue)
    open_: list[FileWork] = []
    queue = list(waiting)
    made: list[ManifestFile] = []
    failed: list[dict[str, Any]] = []
    while open_ or queue:
        while queue and len(open_) < 3 * here.count:
            open_.append(queue.pop(0))
        going = []
        for work in open_:
            state = runner.advance(work)
            if state.state == "working":
                going.append(work)
                continue
            error = state.error or "It was called off."
            if state.state == "ready":
                try:
                    data, about = runner.result(work)
                    outbox.put(work.planned.path, data, aside, replaced.get(work.planned.path, ""))
                except InputError as problem:
                    error = str(problem)
                else:
                    made.append(about)
                    continue
            failed.append(_row(work.about, "failed") | {"error": error})
        if len(going) == len(open_):
            here.pause()
        else:
            told(f"{len(made) + len(failed)} of {len(waiting)} files")
        open_ = going
    return made, failed


def _row(line: ManifestFile, state: str) -> dict[str, Any]:
    row = line.model_dump(mode="json", exclude={"content", "made", "sources"})
    # what somebody typed of a part is not a state of its file
    return {"file": row.pop("file"), "state": state} | {name: value for name, value in row.items() if name != "state"}
