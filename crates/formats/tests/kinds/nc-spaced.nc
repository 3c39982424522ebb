g21 g90
g0 z5
g0x0y0
g1 z - 1 f100
N40 g1 x 1 0 0
y5 0
x0
y0
g0z5
m2
