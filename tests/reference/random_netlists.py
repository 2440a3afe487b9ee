"""Netlists drawn at random, for comparing with ngspice: as many shapes as a circuit can have, hard-driven junctions too."""

import random

from tests.reference.netlists import MODELS

SUB = ".subckt cell p q r rr=10k\nRa p q {rr}\nRb q m 2k\nD1 m r dd\nQ1 p m r qn\n.ends\n"
CURRENTS = (
    "1u*exp(-abs(V({x})))", "2e-6*(V({x})>1 ? 1 : 0.5)", "1u*min(V({x}),max(V({y}),0.2))", "1e-6*sqrt(1+abs(V({x},{y})))",
    "0.5u*(V({x})>2 && V({y})<3 ? (V({y})>1 ? 2 : 1) : 0)", "1u*uramp(V({x})-0.5)", "2u*u(V({x})-0.3)",
)  # fmt: skip


def random_netlist(seed: int) -> str:
    """One netlist: a tree of resistors so that nothing hangs, and two to nine parts across it."""
    draw = random.Random(seed)
    nodes = ["0", *(f"n{place}" for place in range(1, draw.randint(4, 9)))]

    def ohm(low: float, high: float) -> str:
        value = low * (high / low) ** draw.random()
        return f"{value / 1e3:.4g}k" if value > 1e3 else f"{value:.4g}"

    lines = [f"Rt{place} {node} {draw.choice(nodes[:place])} {ohm(1e2, 1e6)}" for place, node in enumerate(nodes) if place]
    lines.append(f"V1 cell 0 {draw.uniform(-6, 9):.3g}\nRv cell n1 1")
    for place in range(draw.randint(2, 9)):
        a, b, c, d = (draw.choice(nodes) for _ in range(4))
        current = draw.choice(CURRENTS).format(x=draw.choice(nodes[1:]), y=draw.choice(nodes[1:]))
        kinds = {
            "R": f"R{place} {a} {b} {ohm(10, 1e6)}",
            "D": f"D{place} {a} {b} {draw.choice(('dd', 'ds', 'sel', 'dz'))}",
            "Q": f"Q{place} {a} {b} {c} {draw.choice(('qn', 'qp', 'qg'))}",
            "X": f"X{place} {a} {b} {c} cell{draw.choice(('', ' rr=33k'))}",
            "I": f"I{place} {a} {b} {10 ** draw.uniform(-7, -3.3):.3g}",
            "V": f"V{place}x v{place} 0 {draw.uniform(-5, 5):.3g}\nRv{place} v{place} {a} 10k",
            "E": f"E{place} e{place} 0 {a} {b} {draw.uniform(-0.9, 0.9):.3g}\nRe{place} e{place} {c} {ohm(1e3, 1e5)}",
            "G": f"G{place} {a} {b} {a} {b} {10 ** draw.uniform(-6, -4):.3g}",
            "H": f"V{place}s {a} s{place} 0\nRs{place} s{place} {b} 47k\nH{place} h{place} 0 V{place}s -100\n"
            f"Rh{place} h{place} {d} 22k",
            "B": f"B{place} {a} {b} I={current}",
        }
        lines.append(draw.choice(list(kinds.values())))
    return f"random {seed}\n" + "\n".join(lines) + f"\n{SUB}{MODELS}.options reltol=1e-6\n.end\n"
