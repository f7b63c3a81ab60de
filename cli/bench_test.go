package cli_test

import (
	"bufio"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
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
