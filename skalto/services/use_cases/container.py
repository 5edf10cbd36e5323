"""The use cases of one server: each made once, from those that its constructor asks for."""

from __future__ import annotations

from typing import TypeVar, cast, get_type_hints

_Kind = TypeVar("_Kind")


class UseCases:
    """What a face (the API) asks for by its class. A feature writes a class whose constructor names the classes that it builds
    on, and is found by it; nothing is listed.

    :param made: those that take more than others to be made.
    """

    def __init__(self, *made: object) -> None:
        self._made: dict[type, object] = {type(one): one for one in made}

    def of(self, kind: type[_Kind]) -> _Kind:
        """The one of a class, made when it is asked for first."""
        if kind not in self._made:
            wanted = {name: of for name, of in get_type_hints(kind.__init__).items() if name != "return"}
            # several threads may come here at once: the first to be put there is the one
            self._made.setdefault(kind, kind(**{name: self.of(of) for name, of in wanted.items()}))
        return cast(_Kind, self._made[kind])
