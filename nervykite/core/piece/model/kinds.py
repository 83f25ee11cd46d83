"""Kinds: one file each, found without a list.

A *family* is everything of one sort (sources, arrangements, finishes, writers …) and the package in which its kinds
lie. A kind is a class in a module of that package: a model of its settings, with a `kind` field, a `title` in plain
words, and methods that do what it is for. Defining it registers it; the package's modules are imported when the family
is first asked. Documents keep kinds as JSON with a `kind`, so that nothing else has to know which there are.
"""

import importlib
import pkgutil
import threading
from typing import Any, ClassVar, Generic, TypeVar

from pydantic import Field, GetCoreSchemaHandler, GetJsonSchemaHandler, ValidationError
from pydantic_core import CoreSchema, core_schema

from .base import Model

K = TypeVar("K", bound="Kind")


class Family(Generic[K]):
    """The kinds of one sort, by name. `package` is where they lie; what a test or an add-on defines joins them."""

    def __init__(self, name: str, package: str) -> None:
        self.name = name
        self._package = package
        self._kinds: dict[str, type[K]] = {}
        self._complete = False
        self._loading = threading.RLock()

    def add(self, kind: type[K]) -> None:
        """Takes a kind in. Raises ValueError if another one has its name."""
        name = name_of(kind)
        known = self._kinds.get(name)
        if known is not None and (known.__module__, known.__qualname__) != (kind.__module__, kind.__qualname__):
            raise ValueError(f"two kinds of {self.name} are called {name!r}")
        self._kinds[name] = kind

    def all(self) -> dict[str, type[K]]:
        """Every kind by its name, in the order of their names."""
        if not self._complete:
            with self._loading:
                package = importlib.import_module(self._package)
                for module in sorted(pkgutil.iter_modules(package.__path__), key=lambda m: m.name):
                    importlib.import_module(f"{self._package}.{module.name}")
                self._complete = True
        return dict(sorted(self._kinds.items()))

    def __getitem__(self, name: str) -> type[K]:
        """A kind by its name. Raises ValueError with a sentence if there is none."""
        known = self._kinds.get(name) or self.all().get(name)
        if known is None:
            raise ValueError(f"there is no {self.name} “{name}”; there are {', '.join(self.all())}")
        return known

    def parse(self, value: Any) -> K:
        """A kind with its settings out of {"kind": …, …}, or of its name. Raises ValueError with what is wrong."""
        if isinstance(value, Kind):
            if type(value).family is not self:
                raise ValueError(f"that is no {self.name}")
            return value  # type: ignore[return-value]
        if isinstance(value, str):
            value = {"kind": value}  # by its name alone, with all settings as they come
        name = value.get("kind") if isinstance(value, dict) else None
        if not isinstance(name, str):
            raise ValueError(f"the {self.name} has to say its kind")
        kind = self[name]
        try:
            return kind.model_validate(value)
        except ValidationError as error:
            raise ValueError(f"{kind.title or name}: {fault(error)}") from error


HIDDEN = Field(json_schema_extra={"hidden": True})
"""For a setting that has no control of its own: what a thing refers to, and what is dragged where it is seen."""


class Kind(Model):
    """The base of all kinds: settings that can be stored, and what they do. The base class of a family has no `kind`.

    They are offered by `rank`, then by title. `groups` are titles for some of its settings, by their names.
    """

    family: ClassVar[Family[Any]]
    title: ClassVar[str] = ""
    hint: ClassVar[str] = ""
    rank: ClassVar[int] = 0
    groups: ClassVar[dict[str, tuple[str, ...]]] = {}

    @classmethod
    def __pydantic_init_subclass__(cls, **_: Any) -> None:
        if "kind" in cls.model_fields:
            cls.family.add(cls)

    @property
    def settings(self) -> dict[str, Any]:
        """The settings as JSON has them, without the kind."""
        return self.model_dump(mode="json", exclude={"kind"})

    @classmethod
    def settings_schema(cls) -> dict[str, Any]:
        """The settings as JSON Schema, from which the page builds its controls.

        Without those that are `hidden`: what a thing refers to, and what is dragged where it is seen. Those of `groups`
        come last, in their order.
        """
        schema = cls.model_json_schema()
        properties = schema.get("properties", {})
        properties = {k: v for k, v in properties.items() if k != "kind" and not v.get("hidden")}
        grouped = {n: {**properties.pop(n), "group": title} for title, names in cls.groups.items() for n in names}
        return schema | {"properties": properties | grouped}

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        if "kind" in cls.__annotations__ or "kind" in getattr(cls, "model_fields", {}):
            return handler(source)
        return core_schema.no_info_plain_validator_function(
            lambda value: cls.family.parse(value),
            serialization=core_schema.plain_serializer_function_ser_schema(
                lambda value, info: value.model_dump(mode=info.mode), info_arg=True
            ),
        )

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        if "kind" in cls.model_fields:
            return handler(schema)
        return {"oneOf": [handler(kind.__pydantic_core_schema__) for kind in cls.family.all().values()]}


def name_of(kind: type[Kind]) -> str:
    """The name of a kind where it is stored."""
    return kind.model_fields["kind"].default


def fault(error: ValidationError) -> str:
    """The first thing that is wrong, in words."""
    first = error.errors()[0]
    where = ".".join(str(part) for part in first["loc"])
    message = str(first["msg"]).removeprefix("Value error, ")
    return f"{where}: {message}" if where else message


def by_rank(family: Family[Any]) -> list[Any]:
    """The kinds of a family in the order in which they are offered."""
    return sorted(family.all().values(), key=lambda kind: (kind.rank, kind.title))
