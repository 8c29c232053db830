"""Subprograms and their instances, generics (IEEE 1076-2008 4, 6.5.6)."""

from __future__ import annotations

from typing import Any

from mevrik.design import typed as t
from mevrik.lang.diagnostics import counted, nearest
from mevrik.lang.vhdl import ast as a
from mevrik.lang.vhdl.elaborate.promises import check_pure
from mevrik.lang.vhdl.elaborate.scope import (
    GenericSubprogram,
    Package,
    Scope,
    TypeName,
    Wrong,
    signature,
)
from mevrik.lang.vhdl.elaborate.types import Types


class Subprograms(Types):
    # ---- subprograms ----

    def parameters(self, items: list[a.Decl], scope: Scope, function: bool) -> list[t.Object]:
        found: list[t.Object] = []
        for d in items:
            if not isinstance(d, a.ObjectDecl):
                raise Wrong(d.pos, "a parameter is a constant, variable, signal or file", "parameter")
            assert d.subtype is not None
            subtype = self.subtype(d.subtype)
            kind = d.kind
            if isinstance(subtype.type, t.FileType):
                kind = "file"
            if kind == "constant" and isinstance(subtype.type, t.ProtectedType):
                message = f"a parameter of type {subtype!r} is a variable: 'variable {d.names[0][1]} : inout ...' (4.2.2.1)"
                raise Wrong(d.pos, message, "parameter")
            if d.init is not None and (d.mode != "in" or kind == "signal"):
                raise Wrong(d.init.pos, "only an input that is no signal has a default value (6.5.2)", "parameter")
            init = self.value(d.init, subtype) if d.init is not None else None
            if function and d.mode != "in" and not self.lazy:
                raise Wrong(d.pos, "the parameters of a function are of mode in", "parameter")
            for name, text, pos in d.names:
                o = t.Object(name, "param", subtype, pos, text, d.mode, kind, init=init)
                scope.declare(name, o, pos, text)
                found.append(o)
        return found

    def _subprogram(self, spec: a.SubprogramSpec, body: a.SubprogramBody | None) -> None:
        if spec.generics:
            there = self.scope.direct(spec.id)
            known = next((x for x in there if isinstance(x, GenericSubprogram)), None)
            if known is not None:
                known.tree = body or known.tree
            else:
                self.scope.declare(
                    spec.id,
                    GenericSubprogram(body or a.SubprogramDecl(spec.pos, spec), self.scope, spec.text, spec.pos),
                    spec.pos,
                    spec.text,
                )
            return
        self._declare_subprogram(spec, body, self.scope)

    def _declare_subprogram(
        self, spec: a.SubprogramSpec, body: a.SubprogramBody | None, region: Scope, name: str = "", text: str = ""
    ) -> t.Subprogram:
        scope = Scope(self.scope, spec.id)
        hidden, self.out = self.out, []
        params = self.parameters(spec.params, scope, spec.function)
        result = self.type_mark(spec.result) if spec.result is not None else None
        scope.open(self.scope, spec.id + signature(params, result))
        self.out = hidden
        name, text = name or spec.id, text or spec.text.strip('"')
        sub: t.Subprogram | None = None
        for x in region.direct(name):
            if isinstance(x, t.Subprogram) and self._same_profile(x, params, result):
                if x.analyse is not None or x.body is not None or (body is None and not x.implicit) or x.alias_of is not None:
                    raise Wrong(spec.pos, f"'{text}' with these parameters is declared twice", "declared-twice")
                if x.implicit:
                    region.names[name].remove(x)
                    break
                sub = x
                break
        if sub is None:
            sub = t.Subprogram(name, spec.function, params, result, spec.pos, text, spec.impure)
            sub.enclosing = self.sub
            sub.process = self.process
            sub.method_of = self.protected
            sub.region = self.scope
            sub.ours = self.lazy
            region.declare(name, sub, spec.pos, text)
        else:
            for p, q in zip(params, sub.params, strict=True):
                if not self.lazy:
                    self._conforms(p, q)
                p.init = p.init or q.init
            sub.params = params
        if self.sub is not None:
            self.sub.has_nested = True
        for p in params:
            p.owner = sub
        if body is None:
            if text.startswith("x_") and self.lazy:
                sub.intrinsic = text
            return sub
        if self.lazy:
            sub.analyse = self._later(sub, body, scope)
        else:
            sub.end = body.pos
            self.analyse_body(sub, body, scope)
        return sub

    def _conforms(self, here: t.Object, there: t.Object) -> None:
        """A parameter stands in the body as in the declaration (4.10)."""
        line = self.diagnostics.sources.place(there.pos).line
        said = f"in the declaration of line {line}"
        if here.name != there.name:
            wrong = f"the parameter '{here.text}' is named '{there.text}' {said}"
        elif here.subtype.name != there.subtype.name:
            wrong = f"the parameter '{here.text}' is of {here.subtype!r} here, but of {there.subtype!r} {said}"
        elif here.mode != there.mode:
            wrong = f"the parameter '{here.text}' has the mode '{here.mode}' here, but '{there.mode}' {said}"
        else:
            return
        self.diagnostics.error(here.pos, f"{wrong} (4.10)", "conformance")

    def _later(self, sub: t.Subprogram, body: a.SubprogramBody, scope: Scope) -> Any:
        path = self.path

        def run() -> None:
            sub.analyse = None
            with self.inside(scope, sub=sub, out=[], loops=[], path=path, process=None, protected=sub.method_of, lazy=True):
                self.analyse_body(sub, body, scope)

        return run

    def analyse_body(self, sub: t.Subprogram, body: a.SubprogramBody, scope: Scope) -> None:
        sub.body = []
        sub.end = body.pos
        if sub.function and not self.lazy and not _returns(body.body):
            self.diagnostics.warning(
                sub.pos, f"the function '{sub.text}' never returns a value: 'return' gives one (4.3)", "no-return"
            )
        with self.inside(scope, sub=sub, out=[], loops=[]):
            sub.decls = self.declare_all(body.decls)
            made = self.statements(body.body)
            sub.decls += self.out
            sub.body = made
        if not self.lazy:
            check_pure(sub, self.diagnostics)

    @staticmethod
    def _same_profile(x: t.Subprogram, params: list[t.Object], result: t.Subtype | None) -> bool:
        if len(x.params) != len(params) or (x.result is None) != (result is None):
            return False
        if result is not None and x.result is not None and result.type is not x.result.type:
            return False
        return all(p.subtype.type is q.subtype.type for p, q in zip(x.params, params, strict=True))

    def _subprogram_instance(self, d: a.SubprogramInst) -> None:
        found = self.denote(d.name)
        generic = next((x for x in found or () if isinstance(x, GenericSubprogram)), None)
        if generic is None:
            raise Wrong(d.pos, "only a subprogram with generics has instances", "generic")
        tree = generic.tree
        spec = tree.spec
        if not isinstance(tree, a.SubprogramBody):
            raise Wrong(d.pos, f"'{generic.name}' has no body before this instance", "generic")
        scope = Scope(generic.scope, spec.id)
        self.bind_generics(spec.generics, d.generic_map, scope, d.pos, generic.name)
        home = self.scope
        with self.inside(scope):
            self._declare_subprogram(spec, tree, home, d.id, d.text)

    # ---- generics (6.5.6) ----

    def bind_generics(
        self, generics: list[a.Decl], given: list[a.Assoc], scope: Scope, pos: int, what: str, outer: Scope | None = None
    ) -> dict[str, Any]:
        """Declare generics in `scope` with their values; actuals are looked up where we are. Gives the values that identify them."""
        here = self.scope
        flat: list[tuple[str, str, int, a.Decl]] = []
        for d in generics:
            if isinstance(d, a.ObjectDecl):
                flat += [(n, text, at, d) for n, text, at in d.names]
            elif isinstance(d, a.SubprogramGeneric):
                flat.append((d.spec.id, d.spec.text, d.pos, d))
            elif isinstance(d, (a.TypeGeneric, a.PackageGeneric)):
                flat.append((d.id, d.text, d.pos, d))
        actuals: dict[str, a.Expr] = {}
        names = [f[0] for f in flat]
        for k, item in enumerate(given):
            if isinstance(item.value, (a.Box,)):
                continue
            if item.choices:
                formal = item.choices[0]
                name = formal.id if isinstance(formal, a.Name) else formal.value.lower() if isinstance(formal, a.Text) else ""
                if name not in names and f'"{name}"' in names:
                    name = f'"{name}"'
                if name not in names:
                    spelled = getattr(formal, "text", name)
                    known = {f[0]: f[1] for f in flat}
                    hint = nearest(name, names)
                    if hint:
                        hint = f"; did you mean '{known[hint.split(chr(39))[1]]}'?"
                    elif flat:
                        hint = f"; its generics are {', '.join(f[1] for f in flat)}"
                    raise Wrong(formal.pos, f"{what} has no generic '{spelled}'{hint}", "generic")
            else:
                if k >= len(flat):
                    raise Wrong(item.pos, f"{what} has {counted(len(flat), 'generic')}; this is one too many", "generic")
                name = names[k]
            if name in actuals:
                raise Wrong(item.pos, f"generic '{name}' is given twice", "generic")
            if not isinstance(item.value, a.Open):
                actuals[name] = item.value
        found: dict[str, Any] = {}
        for name, text, at, d in flat:
            actual = actuals.get(name)
            if isinstance(d, a.TypeGeneric):
                if actual is None:
                    raise Wrong(pos, f"the generic type '{text}' of {what} needs a type", "generic")
                subtype = self.subtype(actual) if isinstance(actual, a.SubtypeInd) else self._actual_type(actual)
                scope.declare(name, TypeName(subtype, at, True, text), at, text)
                found[name] = subtype
            elif isinstance(d, a.SubprogramGeneric):
                with self.inside(scope):
                    holder = Scope(scope, "")
                    params = self.parameters(d.spec.params, holder, d.spec.function)
                    result = self.type_mark(d.spec.result) if d.spec.result is not None else None
                chosen = self._actual_subprogram(d, actual, params, result, pos, what)
                scope.names.setdefault(name, []).append(chosen)
                found[name] = chosen
            elif isinstance(d, a.PackageGeneric):
                if actual is None:
                    raise Wrong(pos, f"the generic package '{text}' of {what} needs an instance", "generic")
                package = (self.denote(actual) or [None])[0]
                if not isinstance(package, Package):
                    raise Wrong(actual.pos, "an instance of a package should stand here", "generic")
                scope.declare(name, package, at, text)
                found[name] = package
            else:
                assert isinstance(d, a.ObjectDecl) and d.subtype is not None
                with self.inside(scope):
                    subtype = self.subtype(d.subtype)
                if actual is not None:
                    value = self.value(actual, subtype)
                    where = actual.pos
                elif d.init is not None:
                    with self.inside(scope):
                        value = self.value(d.init, subtype)
                    where = pos
                else:
                    raise Wrong(pos, f"the generic '{text}' of {what} has no default: it needs a value", "generic")
                self.check_value(value, subtype, where)
                o = self.generic_constant(name, text, at, subtype, value, where)
                scope.declare(name, o, at, text)
                found[name] = o
        assert self.scope is here
        return found

    def generic_constant(self, name: str, text: str, pos: int, subtype: t.Subtype, value: t.Expr, where: int) -> t.Object:
        o = t.Object(name, "constant", subtype, pos, text)
        if subtype.scalar and self.sub is None:
            number = self.constant(value)
            self.check_value(t.Const(subtype, where, number), subtype, where)
            o.value = number
            return o
        o.subtype = self.shape_of(value, subtype) if not subtype.constrained else subtype
        o.init = value
        o.owner = self.sub
        if self.sub is None:
            o.place = self.shared.allocate(t.size_of(o.subtype))
            o.site = self.site(a.Node(where))
            self.shared.constants.append(o)
        else:
            self.out.append(t.Declare(self.site_now, o))
        return o

    def _actual_type(self, e: a.Expr) -> t.Subtype:
        if isinstance(e, a.Apply):
            return self.subtype(a.SubtypeInd(e.pos, e.prefix, None, e.args))
        return self.type_mark(e)

    def _actual_subprogram(
        self, d: a.SubprogramGeneric, actual: a.Expr | None, params: list[t.Object], result: t.Subtype | None, pos: int, what: str
    ) -> t.Subprogram:
        name = actual
        if name is None:
            if d.default is None:
                raise Wrong(pos, f"the generic subprogram '{d.spec.text}' of {what} needs a subprogram", "generic")
            name = a.Name(pos, d.spec.id, d.spec.text) if isinstance(d.default, a.Box) else d.default
        if isinstance(name, a.Text):
            name = a.Name(name.pos, f'"{name.value.lower()}"', name.value)
        found = self.scope.lookup(name.id) if isinstance(name, a.Name) else self.denote(name)
        for x in found or ():
            if isinstance(x, t.Subprogram) and self._same_profile(x, params, result):
                return x
        made = self._operator_subprogram(name, params, result) or self._attribute_subprogram(name, params, result)
        if made is not None:
            return made
        shown = getattr(name, "text", "") or (f"'{name.id}" if isinstance(name, a.Attr) else "this")
        types = ", ".join(repr(p.subtype) for p in params)
        raise Wrong(
            name.pos if actual is not None else pos,
            f"no subprogram '{shown}' has the parameters ({types}) that the generic '{d.spec.text}' needs",
            "generic",
        )

    def _operator_subprogram(self, name: a.Expr, params: list[t.Object], result: t.Subtype | None) -> t.Subprogram | None:
        """A function made of a predefined operator."""
        if not isinstance(name, a.Name) or result is None:
            return None
        op = name.id.strip('"')
        own, refs = _own(params)
        kinds = [p.subtype.type for p in own]
        rows: list[t.BaseType] = []
        if len(kinds) == 2:
            rows = [r for _, r in self._binary(op, kinds[0], kinds[1])]
            if op == "&":
                rows = [r for _, r in self._concatenations([kinds[0]], [kinds[1]])]
        elif len(kinds) == 1:
            rows = list(self._unary(op, kinds[0]))
        if op in ("minimum", "maximum") and len(kinds) == 2:
            rows = [kinds[0]]
        if op == "to_string" and len(kinds) == 1:
            rows = [self.std.string.type]
        if result.type not in rows:
            return None
        return _function(op, own, result, name.pos, t.Op(self.plain(result.type), name.pos, op, refs))

    def _attribute_subprogram(self, name: a.Expr, params: list[t.Object], result: t.Subtype | None) -> t.Subprogram | None:
        """A function made of an attribute that is one, such as integer'image (16.2.2)."""
        if not isinstance(name, a.Attr) or name.arg is not None or len(params) != 1 or result is None:
            return None
        if name.id not in ("image", "value", "pos", "val", "succ", "pred", "leftof", "rightof"):
            return None
        of = self.type_mark(name.prefix)
        string, numbers = self.std.string.type, self.std.integer.type
        takes = string if name.id == "value" else numbers if name.id == "val" else of.type
        gives = string if name.id == "image" else numbers if name.id == "pos" else of.type
        if params[0].subtype.type is not takes or result.type is not gives:
            return None
        own, refs = _own(params)
        return _function(name.id, own, result, name.pos, t.ScalarAttr(self.plain(gives), name.pos, name.id, of, refs[0]))


def _own(params: list[t.Object]) -> tuple[list[t.Object], list[t.Expr]]:
    """Parameters like these for a function of its own, and what reads them."""
    own = [t.Object(p.name, "param", p.subtype, p.pos, p.text, "in", "constant") for p in params]
    return own, [t.Ref(p.subtype, p.pos, p) for p in own]


def _function(name: str, params: list[t.Object], result: t.Subtype, pos: int, value: t.Expr) -> t.Subprogram:
    """A function that only returns a value."""
    sub = t.Subprogram(name, True, params, result, pos, name)
    for p in params:
        p.owner = sub
    sub.body = [t.Return(0, value)]
    return sub


def _returns(body: list[a.Stmt]) -> bool:
    """Whether there is a `return` in some statement."""
    for s in body:
        inside: list[list[a.Stmt]] = []
        if isinstance(s, a.Return):
            return True
        if isinstance(s, (a.If, a.Case)):
            inside = [arm[1] for arm in s.arms]
        elif isinstance(s, a.Loop):
            inside = [s.body]
        if any(_returns(x) for x in inside):
            return True
    return False
