"""Where a slip could be made in a Python file, and how each is made: by class of slip, from the syntax alone."""

from __future__ import annotations

import ast
import copy
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from types import CodeType

SWAPPED = {"min": "max", "max": "min"}
# The next laxer or stricter comparison, the opposite one, and the opposite sign.
EDGE: dict[type, Callable[[], ast.cmpop]] = {ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt}
OPPOSITE: dict[type, Callable[[], ast.cmpop]] = {
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
}
SIGN: dict[type, Callable[[], ast.operator]] = {ast.Add: ast.Sub, ast.Sub: ast.Add}
# Who may do it: the wider circle in the place of the narrower one.
PERMISSION = {"supervisor_of": "member_of", "designer_of": "member_of"}
DEFAULT = "default"
GUARDS = (ast.Return, ast.Raise, ast.Continue, ast.Break)
Make = Callable[[ast.AST], ast.AST]


@dataclass(frozen=True)
class Slip:
    """A slip that can be made: in which function, at which node of the tree, of which class, in words.

    function: qualified name of the outermost function around it, with the line it begins at; last: last line of what is changed.
    """

    file: str
    line: int
    last: int
    kind: str
    function: str
    begins: int
    at: int
    turn: int
    told: str

    @property
    def name(self) -> str:
        """How it is told: place, class, what becomes of it."""
        return f"{self.file}:{self.line} {self.kind}: {self.told}"


def _short(node: ast.AST) -> str:
    text = " ".join(ast.unparse(node).split())
    return text if len(text) <= 60 else text[:57] + "..."


def _becomes(node: ast.AST, new: ast.AST) -> str:
    return f"{_short(node)} → {_short(new)}"


def turns(node: ast.AST) -> list[tuple[str, ast.AST]]:  # noqa: C901 - one case for each class of slip
    """Return what could become of one node by a slip: class and new node each."""
    found: list[tuple[str, ast.AST]] = []
    match node:
        case ast.Call(func=ast.Name(id=("min" | "max") as name), args=args) if len(args) > 1 or isinstance(
            args[0], ast.GeneratorExp | ast.ListComp
        ):
            found.append(("min for max", ast.Call(ast.Name(SWAPPED[name], ast.Load()), args, node.keywords)))
            if len(args) == 2 and not node.keywords:
                found += [("cap or floor dropped", arg) for arg in args if not isinstance(arg, ast.Starred)]
        case ast.Call(func=ast.Name(id="sum"), args=[ast.GeneratorExp() | ast.ListComp() | ast.Call() as part]):
            biggest = ast.Call(ast.Name("max", ast.Load()), [part], [ast.keyword("default", ast.Constant(0))])
            found.append(("largest for sum", biggest))
        case ast.Call(func=ast.Name(id=("any" | "all") as name)):
            found.append(("any for all", ast.Call(ast.Name("all" if name == "any" else "any", ast.Load()), node.args, node.keywords)))
        case ast.Call(func=ast.Name(id=name)) if name in PERMISSION:
            found.append(("permission", ast.Call(ast.Name(PERMISSION[name], ast.Load()), node.args, node.keywords)))
        case ast.BinOp(op=ast.Mult() | ast.Div()):
            for side, other in ((node.left, node.right), (node.right, node.left)):
                if isinstance(other, ast.Name | ast.Attribute) and not (isinstance(node.op, ast.Div) and other is node.left):
                    found.append(("factor dropped", side))
        case ast.BinOp(op=op) if type(op) in SIGN and not _wordy(node):
            found.append(("sign", ast.BinOp(node.left, SIGN[type(op)](), node.right)))
        case ast.Compare(ops=[op], left=left, comparators=[right]):
            for kind, others in (("edge", EDGE), ("comparison", OPPOSITE)):
                if type(op) in others:
                    found.append((kind, ast.Compare(left, [others[type(op)]()], [right])))
        case ast.BoolOp(op=op, values=values):
            told = "condition dropped" if isinstance(op, ast.And) else "alternative dropped"
            for i in range(len(values)):
                # What stands in for a missing name is a word; nothing is worked out from it.
                if isinstance(values[-1], ast.Constant) and isinstance(values[-1].value, str):
                    break
                rest = values[:i] + values[i + 1 :]
                found.append((told, rest[0] if len(rest) == 1 else ast.BoolOp(op, rest)))
        case ast.UnaryOp(op=ast.Not(), operand=operand):
            found.append(("not dropped", operand))
        case ast.IfExp() if not _wordy(node):
            found += [("choice", node.body), ("choice", node.orelse)]
        case ast.If(body=[*_, last], orelse=[]) if isinstance(last, GUARDS) and not _type_checking(node):
            found.append(("guard dropped", ast.Pass()))
        case ast.comprehension(ifs=[_, *_]):
            found.append(("filter dropped", ast.comprehension(node.target, node.iter, node.ifs[1:], node.is_async)))
        case ast.AugAssign() if not _wordy(node):
            found.append(("statement dropped", ast.Pass()))
        case ast.Expr(value=ast.Call(func=ast.Attribute())) if not _wordy(node):
            found.append(("statement dropped", ast.Pass()))
    return found


def _wordy(node: ast.AST) -> bool:
    """Text and lists are put together with the same sign as numbers; a slip in what is told is no slip in what is worked out."""
    kinds = (ast.JoinedStr, ast.List, ast.ListComp, ast.Tuple, ast.Dict)
    return any(isinstance(part, kinds) or (isinstance(part, ast.Constant) and isinstance(part.value, str)) for part in ast.walk(node))


def _type_checking(node: ast.If) -> bool:
    return isinstance(node.test, ast.Name) and node.test.id == "TYPE_CHECKING"


def _numbered(tree: ast.AST) -> Iterator[tuple[int, ast.AST, str, int]]:
    """Every node with its number in the order of a walk, and the outermost function around it: qualified name and first line."""
    counter = 0

    def walk(node: ast.AST, path: str, function: str, begins: int) -> Iterator[tuple[int, ast.AST, str, int]]:
        nonlocal counter
        for child in ast.iter_child_nodes(node):
            counter += 1
            name, first = function, begins
            inner = path
            if isinstance(child, ast.ClassDef):
                inner = f"{path}{child.name}."
            elif isinstance(child, ast.FunctionDef | ast.AsyncFunctionDef) and not function:
                name, first = f"{path}{child.name}", min([child.lineno, *(d.lineno for d in child.decorator_list)])
            elif isinstance(child, ast.Lambda) and not function:
                name, first = "<lambda>", child.lineno
            yield counter, child, name, first
            yield from walk(child, inner, name, first)

    yield from walk(tree, "", "", 0)


def sites(file: str, source: str) -> list[Slip]:
    """Return every slip that can be made in a file.

    >>> [s.told for s in sites("x.py", "def f(a, b):\\n    return min(a, b) * b")]
    ['min(a, b) * b → min(a, b)', 'min(a, b) → max(a, b)', 'min(a, b) → a', 'min(a, b) → b']
    """
    found = []
    tree = ast.parse(source)
    for at, node, function, begins in _numbered(tree):
        if not function:
            continue
        for turn, (kind, new) in enumerate(turns(node)):
            line = getattr(node, "lineno", None) or node.target.lineno  # type: ignore[attr-defined]
            # A guard and a statement is dropped whole; what is told of it is its first line.
            told = (
                f"{_short(node.test)}" if isinstance(node, ast.If) else _short(node) if isinstance(new, ast.Pass) else _becomes(node, new)
            )
            last = getattr(node, "end_lineno", None) or line
            last = node.test.end_lineno or line if isinstance(node, ast.If) else last
            found.append(Slip(file, line, last, kind, function, begins, at, turn, told))
    return found + list(_defaults(file, tree))


def _defaults(file: str, tree: ast.Module) -> Iterator[Slip]:
    """The defaults of the fields of the classes in a file; what another one is, is known where the class is (`swap.other_default`)."""
    for owner in [n for n in tree.body if isinstance(n, ast.ClassDef)]:
        for field in owner.body:
            if not isinstance(field, ast.AnnAssign) or not isinstance(field.target, ast.Name) or field.value is None:
                continue
            given = [k.value for k in field.value.keywords if k.arg == "default"] if isinstance(field.value, ast.Call) else [field.value]
            if given and isinstance(given[0], ast.Constant) and given[0].value is not None:
                told = f"{owner.name}.{field.target.id} is not {given[0].value!r}"
                yield Slip(file, field.lineno, field.lineno, DEFAULT, owner.name, owner.lineno, 0, 0, told)


class _Putting(ast.NodeTransformer):
    def __init__(self, old: ast.AST, new: ast.AST) -> None:
        self.old, self.new = old, new

    def visit(self, node: ast.AST) -> ast.AST:
        return self.new if node is self.old else self.generic_visit(node)


def made(slip: Slip, source: str, path: str) -> CodeType:
    """Return the code of the function with the slip in it, compiled as the file at `path`. Raises LookupError where it is not found."""
    tree = ast.parse(source)
    node = next(n for at, n, _, _ in _numbered(tree) if at == slip.at)
    new = copy.deepcopy(turns(node)[slip.turn][1])
    if hasattr(node, "lineno"):
        ast.copy_location(new, node)
    slipped: ast.Module = _Putting(node, new).visit(tree)  # type: ignore[assignment]
    module = compile(ast.fix_missing_locations(slipped), path, "exec")
    return _inside(module, slip.function, slip.begins)


def _inside(code: CodeType, function: str, begins: int) -> CodeType:
    for part in code.co_consts:
        if isinstance(part, CodeType):
            if part.co_qualname.endswith(function) and part.co_firstlineno == begins:
                return part
            try:
                return _inside(part, function, begins)
            except LookupError:
                continue
    raise LookupError(function)
