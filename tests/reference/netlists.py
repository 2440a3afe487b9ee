"""Netlists of our own for comparing with ngspice: linear, diode, bipolar, controlled sources, subcircuits."""

MODELS = """.model dd D(IS=1e-14 N=1.1)
.model ds D(IS=5e-9 N=1.6 RS=2)
.model dz D(IS=1e-14 N=1.2 BV=5.6 IBV=5m)
.model sel D(IS=4e-7 N=2.2)
.model qn NPN(IS=1e-15 BF=150 VAF=80)
.model qp PNP(IS=2e-15 BF=80 VAF=60 NF=1.02)
.model qg NPN(IS=1e-14 BF=200 BR=4 ISE=1e-13 NE=1.7 IKF=20m VAF=100 VAR=20)
"""

_LATCH = "V1 vcc 0 5\nR1 vcc c1 1k\nR2 vcc c2 1k\nR3 c1 b2 10k\nR4 c2 b1 10k\nQ1 c1 b1 0 qn{}\nQ2 c2 b2 0 qn{}\n"
OPERATING = {
    "steady among others": "V1 a 0 AC DC 5\nR1 a b 1k\nV2 b 0 dc=2\nV3 c 0 AC 1 DC 4\nV4 d 0 DC 2 AC 1 90\nR2 c d 1k\n",
    "a sine begins at its phase": "V1 a 0 SIN(1 2 50 0 0 90)\nR1 a 0 1k\nV2 b 0 SIN(1 2 50 1m 0 30)\nR2 b 0 1k\n",
    "powers of what is negative": "V1 a 0 -2\nR1 a 0 1k\nB1 b 0 V=V(a)^3\nB2 c 0 V=pow(V(a),3)\nB3 d 0 V=pwr(V(a),3)\n"
    "B4 e 0 V=2^3^2+0*V(a)\nB5 f 0 V=-V(a)^2\nB6 g 0 V=u(V(a)+2)+u(0)\nR2 b c 1k\nR3 d e 1k\nR4 f g 1k\n",
    "powers in parameters": ".param p={pow(-2,3)} q={pwr(-2,3)} r={2^3^2} s={-2^2} t={(-2)^3}\n"
    "V1 a 0 {p}\nV2 b 0 {q}\nV3 c 0 {r}\nV4 d 0 {s}\nV5 e 0 {t}\nR1 a b 1k\nR2 c d 1k\nR3 e 0 1k\n",
    "blocks without a figure at nothing": "V1 a 0 4\nR1 a 0 1k\nB1 b 0 V=log10(V(a))\nB2 c 0 V=ln(V(a))\nB3 d 0 V=1/V(a)\n"
    "B4 e 0 V=5\nR2 b c 1k\nR3 d e 1k\n",
    "polynomials": "V1 a 0 0.7\nVm b 0 0\nR1 a b 1k\nE1 c 0 POLY(1) a 0 0.5 2 0.3\nR2 c 0 1k\n"
    "G1 0 d POLY(1) a 0 1m 2m\nR3 d 0 1k\n"
    "F1 0 e POLY(1) Vm 0 20 3\nR4 e 0 100\nH1 f 0 POLY(1) Vm 0.1 500\nR5 f 0 1k\n",
    "resistances of its own": ".model qr NPN(IS=1e-15 BF=150 RB=100 RC=2 RE=0.5 CJE=4p VTF=3 KF=1e-15)\n"
    "V1 vcc 0 6\nR1 vcc b 47k\nQ1 c b e qr 2\nR2 vcc c 470\nR3 e 0 22\n",
    "warm junctions": ".options temp=60\n.model qw NPN(IS=1e-15 BF=150 XTB=1.5 ISE=1e-13 NE=1.7 EG=1.15)\n"
    "V1 vcc 0 6\nR1 vcc b 470k\nQ1 c b 0 qw\nR2 vcc c 2.2k\nR3 vcc d 1k\nD1 d 0 dd\nR4 vcc e 1k\nD2 e 0 ds\n",
    "one warm part": "V1 a 0 3\nR1 a b 1k\nD1 b 0 dd temp=80\nR2 a c 1k\nD2 c 0 dd\n",
    "in the cold": ".temp -10\nV1 vcc 0 6\nR1 vcc b 100k\nR2 b 0 22k\nQ1 c b e qg\nR3 vcc c 4.7k\nR4 e 0 1k\n",
    "resistors that warm": ".temp 70\nV1 a 0 5\nR1 a b 10k tc1=2m tc2=5u\nR2 b 0 10k\n",
    "a latch where nodeset wants it": _LATCH.format("", "") + ".nodeset v(c1)=5 v(c2)=0\n",
    "the same the other way": _LATCH.format("", "") + ".nodeset v(c1)=0 v(c2)=5\n",
    "a latch with one side off": _LATCH.format(" off", ""),
    "substrate, area and off": "V1 vcc 0 6\nR1 vcc b 100k\nR2 b 0 22k\nQ1 c b e 0 qn 2\nR3 vcc c 4.7k\nR4 e 0 1k\n"
    "D1 c d dd area=3 off\nR5 d 0 10k\n",
    "zener regulator": "V1 a 0 9\nR1 a b 470\nD1 0 b dz\nR2 b 0 2.2k\n",
    "zener starved": "V1 a 0 6\nR1 a b 470\nD1 0 b dz\nR2 b 0 2.2k\n",
    "zener forward": "V1 a 0 -3\nR1 a b 470\nD1 0 b dz\n",
    "zeners against each other": "V1 a 0 15\nR1 a b 1k\nD1 c b dz\nD2 c 0 dz\nR2 b 0 10k\n",
    "zener and follower": "V1 a 0 9\nR1 a b 1k\nD1 0 b dz\nQ1 a b e qn\nR2 e 0 220\n",
    "divider": "V1 a 0 9\nR1 a b 2.2k\nR2 b 0 4k7\n".replace("4k7", "4.7k"),
    "bridge": "V1 a 0 1.5\nR1 a b 8k\nR2 b 0 8.2k\nR3 a c 8.2k\nR4 c 0 8.3k\nR5 b c 1.8k\n",
    "current source": "I1 0 a 1m\nR1 a 0 1k\nR2 a b 2k\nR3 b 0 3k\n",
    "two sources": "V1 a 0 5\nV2 b 0 3\nR1 a c 1k\nR2 b c 2k\nR3 c 0 1k\nI1 c 0 0.2m\n",
    "inductor is a short": "V1 a 0 2\nR1 a b 10\nL1 b c 1m\nR2 c 0 90\nC1 b 0 1u\n",
    "parameters": ".param r=1k v={2*3}\nV1 a 0 {v}\nR1 a b {r}\nR2 b 0 {r*2+1k}\n",
    "base clamp": "V1 in 0 2.6\nR1 in b 2k\nR2 b 0 8k\nQ1 c b 0 qn\nR3 vcc c 2.2k\nV2 vcc 0 5.9\n",
    "diode and resistor": "V1 a 0 1.55\nR1 a b 470\nD1 b 0 dd\n",
    "diode with series resistance": "V1 a 0 3\nR1 a b 100\nD1 b c ds\nR2 c 0 10\n",
    "diodes in series": "V1 a 0 4\nR1 a b 1k\nD1 b c dd\nD2 c d dd\nD3 d 0 dd\n",
    "diodes both ways": "V1 a 0 2\nR1 a b 1k\nD1 b 0 dd\nD2 0 b dd\n",
    "diode blocked": "V1 a 0 -5\nR1 a b 1k\nD1 b 0 dd\nR2 b 0 1meg\n",
    "diode bridge": "V1 a b 6\nR0 b 0 1\nD1 a p dd\nD2 b p dd\nD3 n a dd\nD4 n b dd\nR1 p n 1k\n",
    "selenium cell": "I1 0 c 120u\nD1 c 0 sel\nR1 c 0 25k\nR2 c m 40\nR3 m 0 1k\n",
    "selenium bright": "I1 0 c 900u\nD1 c 0 sel\nR1 c 0 25k\nR2 c m 40\nR3 m 0 1k\n",
    "common emitter": "V1 vcc 0 6\nR1 vcc b 100k\nR2 b 0 22k\nQ1 c b e qn\nR3 vcc c 4.7k\nR4 e 0 1k\n",
    "saturated switch": "V1 vcc 0 6\nR1 vcc b 4.7k\nQ1 c b 0 qg\nR2 vcc c 180\n",
    "pnp follower": "V1 vcc 0 6\nR1 vcc e 2k\nQ1 0 b e qp\nR2 b 0 100k\nR3 vcc b 47k\n",
    "complementary pair": "V1 vcc 0 6\nR1 vcc b 47k\nR2 b 0 33k\nQ1 vcc b e qn\nQ2 0 b e qp\nR3 e 0 1k\n",
    "high current knee": "V1 vcc 0 9\nV2 in 0 1.2\nR1 in b 100\nQ1 c b e qg\nR2 e 0 4.7\nR3 vcc c 47\n",
    "flip-flop": "V1 vcc 0 5\nR1 vcc c1 1k\nR2 vcc c2 1.1k\n"
    "R3 c1 b2 10k\nR4 c2 b1 10k\nQ1 c1 b1 0 qn\nQ2 c2 b2 0 qn\nI1 b1 0 50u\n",
    "voltage-controlled voltage": "V1 a 0 0.2\nR1 a b 1k\nR2 b 0 1k\nE1 o 0 b 0 12\nR3 o p 1k\nR4 p 0 3k\n",
    "voltage-controlled current": "V1 a 0 0.2\nR1 a 0 1k\nG1 0 o a 0 5m\nR2 o 0 1k\n",
    "current-controlled": "V1 a 0 3\nVm b 0 0\nR1 a b 1k\nF1 0 c Vm 20\nR2 c 0 100\nH1 d 0 Vm 500\nR3 d 0 1k\n",
    "behavioural": "V1 a 0 1.2\n"
    "R1 a 0 1k\nB1 o 0 V={2.6*tanh(3*V(a))+0.1*V(a)^2}\nR2 o p 1k\nB2 p 0 I={1m*V(p)*V(p)}\nR3 p 0 10k\n",
    "subcircuit": ".subckt half i o g params: r=1k\nR1 i o {r}\nR2 o g {r}\n.ends\n"
    "V1 a 0 6\nX1 a b 0 half\nX2 b c 0 half r=4.7k\nR9 c 0 10k\n",
    "subcircuits inside": (
        ".subckt inner a k\nD1 a m dd\nR1 m k 10\n.ends\n.subckt outer p q\nX1 p t inner\nX2 t q inner\n.ends\n"
        "V1 a 0 3\nR1 a b 330\nX9 b 0 outer\n"
    ),
    "regulator and control": (
        "V1 in 0 5.9\nR1 in v 0.5\nB1 r 0 V={1.3*(1+tanh(1.6*(V(v)-2)))}\nR2 r c 2k\nR3 c 0 8k\nQ1 l c 0 qn\nR4 v l 22k\n"
    ),
}  # fmt: skip

TRANSIENT = {
    "twelve steps a period": ("V1 in 0 SIN(0 1 1000)\nR1 in a 1k\nC1 a 0 100n\n", 5e-3, 1e-3 / 12),
    "a rectifier in coarse steps": ("V1 in 0 SIN(0 5 200 0 0 40)\nR0 in s 10\nD1 s a dd\nC1 a 0 10u\nR1 a 0 1k\n", 15e-3, 4e-4),
    "charging": ("V1 in 0 PULSE(0 3 1m 1u 1u 50m 100m)\nR1 in a 10k\nC1 a 0 100n\n", 8e-3, 5e-6),
    "rectifier": ("V1 in 0 SIN(0 5 200)\nR0 in s 10\nD1 s a dd\nC1 a 0 10u\nR1 a 0 1k\n", 15e-3, 5e-6),
    "ringing": ("V1 in 0 PULSE(0 1 0.2m 1u 1u 20m 40m)\nR1 in a 20\nL1 a b 10m\nC1 b 0 1u\nR2 b 0 2k\n", 6e-3, 2e-6),
    "switched transistor": (
        "V1 vcc 0 6\nV2 g 0 PULSE(0 5 0.5m 2u 2u 2m 5m)\nR1 g b 10k\nQ1 c b 0 qn\nR2 vcc c 1k\nC1 c 0 100n\n",
        4e-3, 2e-6,
    ),
}  # fmt: skip
