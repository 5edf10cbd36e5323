"""What a release would make: files with their places in the outbox, and what stands against it, before anything is made."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field

from pydantic import BaseModel, ConfigDict

from skalto.core.fields import filled, names_in
from skalto.core.packs import safe
from skalto.core.plain import short_name
from skalto.core.release.register import PartRow
from skalto.core.release.rules import FileKind, FileRule, ReleaseRules
from skalto.core.sheet_metal.flat_writing import FlatWriting

GIVE_MARKS = "they have no marks yet, which would tell them apart: give marks in the parts register."


@dataclass(frozen=True, eq=False)
class Subject:
    """Something that files are made of: its *kind*, its *id* (a part's key, a sheet's or a pack's id), what it is *called*,
    its *values* by name, a short name for its *content*, its row where it is a part, whether it has something on side B."""

    kind: str
    id: str
    called: str
    values: Mapping[str, str]
    content: str
    row: PartRow | None = None
    side_b: bool = False
    unfolds: bool = False


class PlannedFile(BaseModel):
    """A file to be: its *path* in the outbox, what it is, of what, by which recipe, whether it is the other side; *content*
    changes when what the file shows does."""

    model_config = ConfigDict(frozen=True)

    path: str
    file: FileKind
    kind: str
    subject: str
    called: str
    recipe: str = ""
    side_b: bool = False
    content: str


def subject_of(file: PlannedFile) -> str:
    """What a file is of, as states call it: ``sheet:…``, ``part:…``, or a pack or the job."""
    return f"{file.kind if file.kind in ('sheet', 'pack', 'job') else 'part'}:{file.subject}"


@dataclass(frozen=True)
class ReleasePlan:
    """The files of a release, in the order in which they are made; what stands *against* it; what holds it until somebody
    accepts it (*held*); and what its sender should know."""

    files: tuple[PlannedFile, ...]
    against: tuple[str, ...] = ()
    notices: tuple[str, ...] = field(default=())
    held: tuple[str, ...] = ()

    @property
    def marks_wanted(self) -> bool:
        """Whether giving marks would help."""
        return any(line.endswith(GIVE_MARKS) for line in self.against)

    def stops(self, accepted: bool) -> str:
        """Why it does not begin, '' where it does. :param accepted: whether what holds it is accepted."""
        if self.against:
            return self.against[0]
        if self.held and not accepted:
            return f"{self.held[0]} Say in the parts register what it is, or accept that it has none."
        return ""


def planned(
    rules: ReleaseRules, subjects: Sequence[Subject], writings: Mapping[str, FlatWriting], recipes: Mapping[str, str]
) -> ReleasePlan:
    """Which files rules make of some subjects.

    :param writings: how flat patterns are written, by the recipe's id. :param recipes: what of a recipe decides a file, by
        its id.
    """
    files: list[PlannedFile] = []
    against: list[str] = []
    notices: list[str] = []
    held: list[str] = []
    unmarked: set[str] = set()
    known = sorted({name for subject in subjects for name in subject.values})
    for rule in rules.files:
        against += _unknown(rule, known, recipes)
        if against:
            continue
        for subject in subjects:
            flat = rule.file in (FileKind.FLAT, FileKind.PROFILE)
            unfit = subject.row.unfit if subject.row is not None and flat else ""
            if unfit:
                # one that is not recognised is of another kind than the rule is for: it must not be missing in silence
                held.append(f"{subject.called} looks like sheet, and has no flat pattern: {unfit}")
                continue
            if not _made(rule, rules, subject):
                continue
            if flat and not subject.unfolds:
                notices.append(f"{subject.called} has no flat pattern: none is written.")
                continue
            if "mark" in names_in(rule.name) and subject.row is not None and not subject.row.mark:
                unmarked.add(subject.id)
            name, said = _named(rule, subject)
            notices += said
            folder = _folder(rule, subject)
            content = short_name(rule.file.value, subject.content, recipes.get(rule.recipe, ""))
            one = PlannedFile(
                path=f"{folder}{name}{rule.file.suffix}", file=rule.file, kind=subject.kind, subject=subject.id,
                called=subject.called, recipe=rule.recipe, content=content,
            )  # fmt: skip
            files.append(one)
            writing = writings.get(rule.recipe, FlatWriting())
            if rule.file is FileKind.FLAT and writing.wants_other_side(subject.side_b, subject.values):
                other = f"{folder}{writing.other_name(name)}{rule.file.suffix}"
                files.append(one.model_copy(update={"path": other, "side_b": True}))
    if not files and not against:
        against.append("These rules make no file of what is released: choose other rules, or other parts.")
    return ReleasePlan(
        tuple(files),
        tuple(dict.fromkeys((*against, *_clashes(files, unmarked)))),
        tuple(dict.fromkeys(notices)),
        tuple(dict.fromkeys(held)),
    )


def _made(rule: FileRule, rules: ReleaseRules, subject: Subject) -> bool:
    if subject.kind not in rule.of or (subject.kind == "bought" and not rules.bought):
        return False
    if rule.only_if is None:
        return True
    values = {name.casefold(): text.strip().casefold() for name, text in subject.values.items()}
    value = values.get(rule.only_if.field.casefold(), "")
    wanted = rule.only_if.value.strip().casefold()
    return value == wanted if wanted else value not in ("", "no")


def _unknown(rule: FileRule, known: Sequence[str], recipes: Mapping[str, str]) -> list[str]:
    """Fields that no subject has, and a recipe that is not there."""
    found = [
        f"“{{{name}}}” is no property: write one of {', '.join(known)} in braces."
        for name in (*names_in(rule.name), *names_in(rule.folder))
        if known and name not in known
    ]
    if rule.recipe and rule.recipe not in recipes:
        found.append(f"The recipe of the {rule.file.value} files is no longer there: choose another.")
    return found


def _named(rule: FileRule, subject: Subject) -> tuple[str, list[str]]:
    """A file's name without its ending, and what is to be known of it."""
    text = filled(rule.name, once_marked(rule.name, subject.values))
    name = safe(text) if text else ""
    if not name or (name == "sheet" and text.strip() != "sheet"):
        name = safe(subject.called)
        return name, [f"“{rule.name}” is empty for {subject.called}: its file is called {name}."]
    illegal = sorted({letter for letter in text if letter in '<>:"/\\|?*' or ord(letter) < 32})
    if illegal:
        return name, [f"{subject.called}: file names cannot have {' '.join(illegal)}, so it is written {name}."]
    return name, []


def once_marked(pattern: str, values: Mapping[str, str]) -> Mapping[str, str]:
    """The values of a pattern with a mark in it, without the mark where a name or the sheet's begins with it: a part that its
    modeller called “S002 side” is S002_side, not S002_S002 side."""
    mark = values.get("mark", "").strip()
    if not mark or "mark" not in names_in(pattern):
        return values
    changed = {}
    for name in ("name", "sheet", "title", "description"):
        said = values.get(name, "").strip()
        rest = said[len(mark) :]
        if said.casefold().startswith(mark.casefold()) and not rest[:1].isalnum():
            changed[name] = rest.lstrip(" _-.,:;")
    return {**values, **changed}


def _folder(rule: FileRule, subject: Subject) -> str:
    """The folder, with a slash behind it, '' for the outbox itself."""
    found = ""
    for part in rule.folder.split("/"):
        # the tree of assemblies is the one property that is folders itself
        if part.strip() == "{assemblies}":
            segments = subject.values.get("assemblies", "").split("/")
        else:
            segments = [filled(part, subject.values)]
        found += "".join(f"{safe(segment)}/" for segment in segments if segment.strip(" ._-"))
    return found


def _clashes(files: Sequence[PlannedFile], unmarked: Collection[str]) -> list[str]:
    """Files that would have one path. :param unmarked: what has no mark yet, though its rule would name it by that."""
    taken: dict[str, list[PlannedFile]] = {}
    for file in files:
        taken.setdefault(file.path.casefold(), []).append(file)
    found = []
    for same in taken.values():
        if len(same) > 1:
            whose = " and ".join(dict.fromkeys(f"{own.called} ({own.file.value})" for own in same))
            way = (
                GIVE_MARKS
                if any(own.subject in unmarked for own in same)
                else "put more properties into the name, such as {mark}."
            )
            found.append(f"{same[0].path} would be written for {whose}: {way}")
    return found
