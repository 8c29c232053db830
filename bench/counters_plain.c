/* The same counters as two-state C without events: the lower bound. */
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
int main(int argc, char **argv) {
    uint64_t clocks = strtoull(argc > 1 ? argv[1] : "36000000", 0, 10);
    volatile uint32_t fast = 0, slow = 0;
    for (uint64_t k = 0; k + 1 < clocks; k++) {
        uint32_t carry = fast == 0xFFFFFF, f = (fast + 1) & 0xFFFFFF, s = (slow + carry) & 0xFFFFFF;
        fast = f; slow = s;
    }
    printf("%u %u\n", fast, slow);
    return 0;
}
