package main

import (
	"os"
	"runtime/debug"
	"strconv"
	"strings"
)

// The bounds of how much memory Go may take before it collects what is not used
// any more, in bytes, where GOMEMLIMIT does not say.
const (
	leastMemory = 128 << 20
	mostMemory  = 400 << 20
)

// limitMemory lets Ebbe take a thirty-second of the memory of this machine, or of
// the part of it that is given to it, within bounds. GOMEMLIMIT counts if it is
// set.
func limitMemory() {
	if os.Getenv("GOMEMLIMIT") != "" {
		return
	}
	debug.SetMemoryLimit(memoryFor(machineMemory()))
}

func memoryFor(machine int64) int64 { return min(max(machine/32, leastMemory), mostMemory) }

// machineMemory is how much memory there is for Ebbe, in bytes; 0 if that is not
// known.
func machineMemory() (bytes int64) {
	if text, err := os.ReadFile("/proc/meminfo"); err == nil {
		for line := range strings.Lines(string(text)) {
			if words := strings.Fields(line); len(words) > 1 && words[0] == "MemTotal:" {
				kb, _ := strconv.ParseInt(words[1], 10, 64)
				bytes = kb << 10
			}
		}
	}
	if text, err := os.ReadFile("/sys/fs/cgroup/memory.max"); err == nil { // of a container; "max" if it has no part of its own
		if most, err := strconv.ParseInt(strings.TrimSpace(string(text)), 10, 64); err == nil && (bytes == 0 || most < bytes) {
			bytes = most
		}
	}
	return bytes
}
