G21 G90 G94
G17
M5
(B Teal score, Trial board, 14 percent power, 180 mm/s, 1 pass)
G0 X10 Y15
M4 S140
F10800
G1 X30 Y15
M5
M5
(A Teal cut through, Trial board, 62 percent power, 25 mm/s, 2 passes)
G0 X10 Y10
M3 S620
F1500
G1 X10 Y20
G1 X30 Y20
G1 X30 Y10
G1 X10 Y10
M5
M3 S620
F1500
G1 X10 Y20
G1 X30 Y20
G1 X30 Y10
G1 X10 Y10
M5
M5
G0 X0 Y0
M2
