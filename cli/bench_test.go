package cli_test

import (
	"bufio"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/tools/large"
)

func build(b *testing.B) string {
	b.Helper()
	bin := filepath.Join(b.TempDir(), "oldledger")
	out, err := exec.Command("go", "build", "-o", bin, "../cmd/oldledger").CombinedOutput()
	require.NoError(b, err, string(out))
	return bin
}

// BenchmarkCompareProcess runs compare on two versions of the demo as a whole process. The figure x-start is its time as
// a multiple of the time of a process that only prints its version, in the same run.
func BenchmarkCompareProcess(b *testing.B) {
	bin := build(b)
	var starting, comparing time.Duration
	for b.Loop() {
		start := time.Now()
		require.NoError(b, exec.Command(bin, "version").Run())
		starting += time.Since(start)
		start = time.Now()
		err := exec.Command(bin, "compare", "../demo/berths/1.2.0.yaml", "../demo/berths/2.0.0.yaml").Run()
		comparing += time.Since(start)
		require.ErrorContains(b, err, "exit status 1")
	}
	b.ReportMetric(float64(comparing)/float64(starting), "x-start")
	b.ReportMetric(float64(comparing.Milliseconds())/float64(b.N), "ms/compare")
}

// BenchmarkReady starts the service on the demo's records and waits for its ready line.
func BenchmarkReady(b *testing.B) {
	bin := build(b)
	data := b.TempDir()
	run := func() time.Duration {
		cmd := exec.Command(bin, "demo", "--data", data, "--listen", "127.0.0.1:0")
		cmd.Stderr = os.Stderr
		out, err := cmd.StdoutPipe()
		require.NoError(b, err)
		start := time.Now()
		require.NoError(b, cmd.Start())
		lines := bufio.NewScanner(out)
		for lines.Scan() && !strings.HasPrefix(lines.Text(), "ready ") {
		}
		took := time.Since(start)
		require.NoError(b, cmd.Process.Signal(syscall.SIGTERM))
		require.NoError(b, cmd.Wait())
		return took
	}
	first := run() // plays the demo in
	var ready time.Duration
	for b.Loop() {
		ready += run()
	}
	b.ReportMetric(float64(first.Milliseconds()), "ms/first")
	b.ReportMetric(float64(ready.Milliseconds())/float64(b.N), "ms/ready")
}

// writeLarge writes the large description and its edited version in a folder, as JSON and as YAML.
func writeLarge(b *testing.B, operations, edits int) (dir string, bytes int64) {
	b.Helper()
	dir = b.TempDir()
	// In a process of its own: what this one holds would count as the memory of the processes that it starts.
	out, err := exec.Command("go", "run", "../tools/seed", "-dir", dir, "-operations", strconv.Itoa(operations), "-edits",
		strconv.Itoa(edits)).CombinedOutput()
	require.NoError(b, err, string(out))
	for _, name := range []string{"old.json", "new.json"} {
		info, err := os.Stat(filepath.Join(dir, name))
		require.NoError(b, err)
		bytes += info.Size()
	}
	return dir, bytes
}

// timed runs a process in a folder; it may answer "no". It gives its time and its peak memory in bytes.
func timed(b *testing.B, dir string, name string, args ...string) (time.Duration, int64) {
	cmd := exec.Command(name, args...)
	cmd.Dir = dir
	start := time.Now()
	err := cmd.Run()
	took := time.Since(start)
	if err != nil {
		require.ErrorContains(b, err, "exit status 1")
	}
	return took, cmd.ProcessState.SysUsage().(*syscall.Rusage).Maxrss << 10
}

// BenchmarkCompareLarge compares a description of 1,100 operations, about 13 MB of JSON, with an edited version of it, as a whole
// process. The figures are multiples of a process that only decodes both files, of the two files' size, of the time for half as many
// operations, and, for the description beside itself with references inlined, of the time of that beside itself.
func BenchmarkCompareLarge(b *testing.B) {
	bin := build(b)
	decode := filepath.Join(b.TempDir(), "decode")
	out, err := exec.Command("go", "build", "-o", decode, "../tools/decode").CombinedOutput()
	require.NoError(b, err, string(out))
	dir, bytes := writeLarge(b, large.Operations, 60)
	half, _ := writeLarge(b, large.Operations/2, 60)
	var json, jsonDecode, yaml, yamlDecode, halved, inlined, itself time.Duration
	var peak int64
	for b.Loop() {
		took, memory := timed(b, dir, bin, "compare", "old.json", "new.json")
		json, peak = json+took, max(peak, memory)
		took, _ = timed(b, dir, decode, "old.json", "new.json")
		jsonDecode += took
		took, _ = timed(b, dir, bin, "compare", "old.yaml", "new.yaml")
		yaml += took
		took, _ = timed(b, dir, decode, "old.yaml", "new.yaml")
		yamlDecode += took
		took, _ = timed(b, half, bin, "compare", "old.json", "new.json")
		halved += took
		took, _ = timed(b, dir, bin, "compare", "old.json", "inlined.json")
		inlined += took
		took, _ = timed(b, dir, bin, "compare", "inlined.json", "inlined.json")
		itself += took
	}
	b.ReportMetric(float64(json)/float64(jsonDecode), "json-x-decode")
	b.ReportMetric(float64(yaml)/float64(yamlDecode), "yaml-x-decode")
	b.ReportMetric(float64(json)/float64(halved), "x-half")
	b.ReportMetric(float64(inlined)/float64(itself), "inlined-x-itself")
	b.ReportMetric(float64(peak)/float64(bytes), "memory-x-files")
	b.ReportMetric(float64(bytes)/(2<<20), "MB/file")
}
