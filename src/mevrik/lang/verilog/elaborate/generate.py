"""Generate constructs (IEEE 1364-2005 12.4)."""

from __future__ import annotations

from mevrik.design import nodes as n
from mevrik.design.types import Vec
from mevrik.lang.verilog import ast
from mevrik.lang.verilog.elaborate.declarations import DeclarationElaborator
from mevrik.lang.verilog.elaborate.scope import Param, Scope

GENERATE_LIMIT = 1 << 16


class GenerateElaborator(DeclarationElaborator):
    def _generate(self, item: ast.Item, scope: Scope) -> None:
        """One generate construct of a scope; its number in the scope names what has no label (12.4.3)."""
        scope.constructs += 1
        self._construct(item, scope)

    def _construct(self, item: ast.Item, scope: Scope) -> None:
        if isinstance(item, ast.GenBlock):
            self._generate_block(item, scope, item.label)
        elif isinstance(item, ast.GenIf):
            cond = self.constant(item.cond, "the condition of a generate")
            chosen = item.then if isinstance(cond, n.Const) and cond.val & ~cond.unk else item.other
            if chosen is not None:
                self._conditional_block(chosen, scope)
        elif isinstance(item, ast.GenCase) and isinstance(item.subject, ast.TypeExpr):
            block = self.arm_of_type(item.subject, item.arms)
            if block is not None:
                self._conditional_block(block, scope)
        elif isinstance(item, ast.GenCase):
            subject = self.constant_int(item.subject, "the expression of a generate case")
            default = None
            for labels, block in item.arms:
                if not labels:
                    default = block
                elif any(self.constant_int(label, "a label of a generate case") == subject for label in labels):
                    default = block
                    break
            if default is not None:
                self._conditional_block(default, scope)
        elif isinstance(item, ast.GenFor):
            self._generate_for(item, scope)

    def _conditional_block(self, block: ast.GenBlock, scope: Scope) -> None:
        direct = not block.label and len(block.items) == 1 and isinstance(block.items[0], (ast.GenIf, ast.GenCase))
        if direct:  # 12.4.3: a directly nested conditional makes no scope of its own
            self._construct(block.items[0], scope)
            return
        self._generate_block(block, scope, block.label)

    @staticmethod
    def _block_name(label: str, scope: Scope) -> str:
        if label:
            return label
        zeros = ""
        while f"genblk{zeros}{scope.constructs}" in scope.names:  # a name that is taken gets zeros (12.4.3)
            zeros += "0"
        return f"genblk{zeros}{scope.constructs}"

    def _generate_block(self, block: ast.GenBlock, scope: Scope, label: str) -> None:
        name = self._block_name(label, scope)
        inner = Scope(name, f"{scope.prefix}{name}.", scope, "generate")
        self.declare(scope, name, inner, block.pos)
        self._declare(block.items, inner)
        self.scope = scope

    def _generate_for(self, item: ast.GenFor, scope: Scope) -> None:
        found = None if item.declares else scope.find(item.var)
        if not item.declares and (found is None or found[0] != "genvar"):
            around = found is not None and isinstance(found[0], Param)
            what = "is not declared" if found is None else "is taken by a loop around, or a parameter" if around else "is no genvar"
            raise self.error(
                item.pos, f"'{item.var}' {what}: the variable of a generate loop is a genvar (IEEE 1364-2005 12.4.1)", "genvar"
            )
        name = self._block_name(item.body.label, scope)
        value = self.constant_int(item.init, "the start of a generate loop")
        blocks: dict[int, object] = {}
        self.declare(scope, name, blocks, item.body.pos)
        for _ in range(GENERATE_LIMIT):
            head = Scope(name, scope.prefix, scope, "generate")
            genvar = Param(item.var, n.Const(Vec(32, True), value & 0xFFFFFFFF), item.pos)
            head.names[item.var] = genvar
            self.scope = head
            cond = self.constant(item.cond, "the condition of a generate loop")
            if not (isinstance(cond, n.Const) and cond.val & ~cond.unk):
                self.scope = scope
                return
            inner = Scope(f"{name}[{value}]", f"{scope.prefix}{name}[{value}].", scope, "generate")
            inner.names[item.var] = genvar
            blocks[value] = inner
            self._declare(item.body.items, inner)
            self.scope = head
            step = item.step
            assert isinstance(step, ast.Assign)
            tree = ast.Binary(step.pos, step.op, step.target, step.value) if step.op else step.value
            following = self.constant_int(tree, "the step of a generate loop")
            if following == value or following in blocks:
                raise self.error(item.pos, "this generate loop never ends", "generate-endless")
            value = following
        raise self.error(item.pos, f"this generate loop makes more than {GENERATE_LIMIT} blocks", "generate-endless")
