# fill and sum a table
addi r1, r0, 0
again:
addi r1, r0, 0
addi r2, r0, 100
addi r3, r0, 0
loop:
mul r4, r1, r1
xor r4, r4, r3
addi r6, r0, 2
shl r5, r1, r6
store r4, r5, 0
load r7, r5, 0
add r3, r3, r7
addi r1, r1, 1
bne r2, r1, loop
bne r2, r0, again
