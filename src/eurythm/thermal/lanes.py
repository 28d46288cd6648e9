"""Numbers that stand side by side, for compiled code: one machine vector of doubles, with the operators of a float.

The compiler makes full-width vectors of plain loops over lanes only now and then; here they are asked for. `rows` gives a flat
array by rows of so many lanes, and what is read from it (`Lanes`) takes part in formulas as a float does, so that one source
serves one lane and many. With one lane a row is a plain float.

A row is a bare pointer, since counted ones cost the loop its registers: who makes rows must hold the array meanwhile.

Built on numba's typing and lowering of extension types, some of which is not public (`AbstractTemplate`, `infer_global`): the
version of numba is pinned, and tests/core/test_lanes.py tries each operator by itself.
"""

from __future__ import annotations

import math
import operator
from collections.abc import Callable
from typing import Any

import numpy as np
from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.core.typeconv import Conversion
from numba.core.typing.templates import AbstractTemplate, infer_global, signature
from numba.extending import intrinsic, lower_builtin, lower_cast, models, overload, register_model
from numpy.typing import NDArray

FLAGS = ("contract",)
"""What the compiler may do with the order of arithmetic: join a product and a sum, nothing else."""


class Lanes(types.Type):  # type: ignore[misc]
    """The type of `count` doubles side by side."""

    def __init__(self, count: int) -> None:
        self.count = count
        super().__init__(f"Lanes({count})")

    def can_convert_from(self, typingctx: Any, other: Any) -> Any:
        """A float becomes lanes where these are asked for."""
        return Conversion.safe if isinstance(other, types.Float) else None

    def unify(self, typingctx: Any, other: Any) -> Any:
        """A variable that is a float first and lanes later is lanes."""
        return self if isinstance(other, types.Float) else None


class Rows(types.Type):  # type: ignore[misc]
    """The type of a flat array of doubles that is read and written a row of lanes at a time."""

    def __init__(self, count: int) -> None:
        self.count = count
        self.array = types.Array(types.float64, 1, "C")
        super().__init__(f"Rows({count})")


def _vector(count: int) -> Any:
    return ir.VectorType(ir.DoubleType(), count)


@register_model(Lanes)
class _LanesModel(models.PrimitiveModel):  # type: ignore[misc]
    def __init__(self, manager: Any, kind: Lanes) -> None:
        super().__init__(manager, kind, _vector(kind.count))


@register_model(Rows)
class _RowsModel(models.PrimitiveModel):  # type: ignore[misc]
    def __init__(self, manager: Any, kind: Rows) -> None:
        super().__init__(manager, kind, ir.DoubleType().as_pointer())


def _spread(builder: Any, value: Any, kind: Any, count: int) -> Any:
    """A number in all lanes; lanes as they are."""
    if isinstance(kind, Lanes):
        return value
    one = builder.insert_element(ir.Constant(_vector(count), ir.Undefined), value, ir.Constant(ir.IntType(32), 0))
    return builder.shuffle_vector(one, ir.Constant(_vector(count), ir.Undefined), ir.Constant(ir.VectorType(ir.IntType(32), count), None))


def _of_two(operation: Any, emit: Callable[[Any, Any, Any], Any]) -> None:
    """Give lanes an operation of two, with lanes or with a float on either side."""

    @infer_global(operation)
    class _Two(AbstractTemplate):  # type: ignore[misc]
        def generic(self, args: Any, kws: Any) -> Any:
            lanes = [a for a in args if isinstance(a, Lanes)]
            if len(args) == 2 and lanes and all(isinstance(a, (Lanes, types.Float)) for a in args):
                return signature(lanes[0], *args)
            return None

    def lower(context: Any, builder: Any, sig: Any, args: Any) -> Any:
        a, b = (_spread(builder, value, kind, sig.return_type.count) for value, kind in zip(args, sig.args, strict=True))
        return emit(builder, a, b)

    for pair in ((Lanes, Lanes), (Lanes, types.Float), (types.Float, Lanes)):
        lower_builtin(operation, *pair)(lower)


def _of_one(operation: Any, emit: Callable[[Any, Any], Any]) -> None:
    """Give lanes an operation of one."""

    @infer_global(operation)
    class _One(AbstractTemplate):  # type: ignore[misc]
        def generic(self, args: Any, kws: Any) -> Any:
            return signature(args[0], *args) if len(args) == 1 and isinstance(args[0], Lanes) else None

    lower_builtin(operation, Lanes)(lambda context, builder, sig, args: emit(builder, args[0]))


def _arithmetic(name: str) -> Callable[[Any, Any, Any], Any]:
    return lambda builder, a, b: getattr(builder, name)(a, b, flags=FLAGS)


def _called(name: str) -> Callable[[Any, Any], Any]:
    def emit(builder: Any, a: Any) -> Any:
        kind = ir.FunctionType(a.type, [a.type])
        return builder.call(cgutils.get_or_insert_function(builder.module, kind, f"llvm.{name}.v{a.type.count}f64"), [a])

    return emit


for _operation, _in_place, _name in (
    (operator.add, operator.iadd, "fadd"),
    (operator.sub, operator.isub, "fsub"),
    (operator.mul, operator.imul, "fmul"),
    (operator.truediv, operator.itruediv, "fdiv"),
):
    _of_two(_operation, _arithmetic(_name))
    _of_two(_in_place, _arithmetic(_name))
# what is no number stays: the first is kept unless the second is truly less (more)
_of_two(min, lambda builder, a, b: builder.select(builder.fcmp_ordered("<", b, a), b, a))
_of_two(max, lambda builder, a, b: builder.select(builder.fcmp_ordered(">", b, a), b, a))
_of_one(operator.neg, lambda builder, a: builder.fneg(a))
_of_one(abs, _called("fabs"))
_of_one(math.sqrt, _called("sqrt"))
_of_one(math.exp, _called("exp"))


@lower_cast(types.Float, Lanes)  # type: ignore[untyped-decorator]
def _cast(context: Any, builder: Any, from_kind: Any, to_kind: Any, value: Any) -> Any:
    return _spread(builder, value, from_kind, to_kind.count)


def above(a: Any, b: Any, then: Any, other: Any) -> Any:
    """Return `then` where a > b, `other` elsewhere; lane by lane, or of plain numbers."""
    return then if a > b else other


@intrinsic  # type: ignore[untyped-decorator]
def _above(typingctx: Any, a: Any, b: Any, then: Any, other: Any) -> Any:
    count = next(kind.count for kind in (a, b, then, other) if isinstance(kind, Lanes))

    def emit(context: Any, builder: Any, sig: Any, args: Any) -> Any:
        a, b, then, other = (_spread(builder, value, kind, count) for value, kind in zip(args, sig.args, strict=True))
        return builder.select(builder.fcmp_ordered(">", a, b), then, other)

    return signature(Lanes(count), a, b, then, other), emit


@overload(above)
def _above_of(a, b, then, other):  # type: ignore[no-untyped-def]
    if any(isinstance(kind, Lanes) for kind in (a, b, then, other)):
        return lambda a, b, then, other: _above(a, b, then, other)
    return lambda a, b, then, other: then if a > b else other


def most_of(a: Any) -> Any:
    """Return the most of all lanes; a plain number as it is."""
    return a


@intrinsic  # type: ignore[untyped-decorator]
def _most(typingctx: Any, a: Any) -> Any:
    def emit(context: Any, builder: Any, sig: Any, args: Any) -> Any:
        left, count = args[0], args[0].type.count
        while count > 1:
            count //= 2
            low, high = (
                builder.shuffle_vector(left, left, ir.Constant(ir.VectorType(ir.IntType(32), count), list(range(at, at + count))))
                for at in (0, count)
            )
            left = builder.select(builder.fcmp_ordered(">", high, low), high, low)
        return builder.extract_element(left, ir.Constant(ir.IntType(32), 0))

    return signature(types.float64, a), emit


@overload(most_of)
def _most_of(a):  # type: ignore[no-untyped-def]
    return (lambda a: _most(a)) if isinstance(a, Lanes) else (lambda a: a)


def rows(array: Any, count: int) -> Any:
    """Return a flat array by rows of `count` lanes, a number that the compiler knows; a row of one is a plain float."""
    raise NotImplementedError("for compiled code only")


def _row_maker(count: int) -> Any:
    kind = Rows(count)

    @intrinsic  # type: ignore[untyped-decorator]
    def make_rows(typingctx: Any, array: Any) -> Any:
        def emit(context: Any, builder: Any, sig: Any, args: Any) -> Any:
            return context.make_array(kind.array)(context, builder, value=args[0]).data

        return signature(kind, kind.array), emit

    return make_rows


@overload(rows, prefer_literal=True)
def _rows(array, count):  # type: ignore[no-untyped-def]
    if not hasattr(count, "literal_value"):
        return None
    made = _row_maker(count.literal_value)
    return lambda array, count: made(array)


@intrinsic  # type: ignore[untyped-decorator]
def numbers_at(typingctx: Any, address: Any) -> Any:
    """Return the doubles that stand at an address (`address_of`), as rows of one."""

    def emit(context: Any, builder: Any, sig: Any, args: Any) -> Any:
        return builder.inttoptr(args[0], ir.DoubleType().as_pointer())

    return signature(Rows(1), types.uint64), emit


def address_of(numbers: NDArray[np.float64]) -> int:
    """Return where doubles stand in memory, which has to be in one piece; who hands it on holds them meanwhile."""
    if numbers.dtype != np.float64 or not numbers.flags.c_contiguous:
        raise ValueError("not doubles in one piece")
    return int(numbers.__array_interface__["data"][0])


def _of(count: int) -> Any:
    """The type of a row: a plain float where it is one number."""
    return Lanes(count) if count > 1 else types.float64


def _place(builder: Any, kind: Rows, value: Any, index: Any) -> Any:
    if kind.count == 1:
        return builder.gep(value, [index])
    at = builder.gep(value, [builder.mul(index, ir.Constant(index.type, kind.count))])
    return builder.bitcast(at, _vector(kind.count).as_pointer())


@infer_global(operator.getitem)
class _Get(AbstractTemplate):  # type: ignore[misc]
    def generic(self, args: Any, kws: Any) -> Any:
        if isinstance(args[0], Rows) and isinstance(args[1], types.Integer):
            return signature(_of(args[0].count), *args)
        return None


@infer_global(operator.setitem)
class _Set(AbstractTemplate):  # type: ignore[misc]
    def generic(self, args: Any, kws: Any) -> Any:
        if isinstance(args[0], Rows) and isinstance(args[1], types.Integer):
            return signature(types.none, *args)
        return None


@lower_builtin(operator.getitem, Rows, types.Integer)  # type: ignore[untyped-decorator]
def _get(context: Any, builder: Any, sig: Any, args: Any) -> Any:
    return builder.load(_place(builder, sig.args[0], args[0], args[1]), align=8)


@lower_builtin(operator.setitem, Rows, types.Integer, Lanes)  # type: ignore[untyped-decorator]
@lower_builtin(operator.setitem, Rows, types.Integer, types.Float)  # type: ignore[untyped-decorator]
def _put(context: Any, builder: Any, sig: Any, args: Any) -> Any:
    count, kind = sig.args[0].count, sig.args[2]
    value = context.cast(builder, args[2], kind, types.float64) if count == 1 else _spread(builder, args[2], kind, count)
    builder.store(value, _place(builder, sig.args[0], args[0], args[1]), align=8)
    return context.get_dummy_value()
