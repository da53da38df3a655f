// Package e2e drives the real interface in headless Chromium: a server with its
// own database, a browser, and what a technician does with both.
package e2e

import (
	"errors"
	"fmt"
	"os"
	"os/exec"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
)

// Browser starts Debian's Chromium; close ends it and removes its profile.
func Browser() (b *rod.Browser, closeBrowser func(), err error) {
	bin := "/usr/bin/chromium"
	if _, err := os.Stat(bin); err != nil {
		if bin, err = exec.LookPath("chromium"); err != nil {
			return nil, nil, errors.New("chromium is missing: run scripts/setup.sh test")
		}
	}
	l := launcher.New().Bin(bin).Headless(true).NoSandbox(true).
		Set("disable-gpu").Set("disable-quic").Set("no-first-run").Set("disable-background-networking").
		Set("disable-component-update").Set("disable-sync").Set("disable-dev-shm-usage").Set("force-color-profile", "srgb")
	u, err := l.Launch()
	if err != nil {
		return nil, nil, fmt.Errorf("chromium does not start: %w", err)
	}
	b = rod.New().ControlURL(u)
	if err := b.Connect(); err != nil {
		l.Kill()
		return nil, nil, err
	}
	return b, func() {
		_ = b.Close()
		l.Kill()
		l.Cleanup()
	}, nil
}

// Size sets the window to w×h; narrow windows are phones, which touch.
func Size(p *rod.Page, w, h int) error {
	return p.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: w, Height: h, DeviceScaleFactor: 1, Mobile: w < 500})
}

// Settle waits until the page rests.
func Settle(p *rod.Page) {
	_ = p.Timeout(5 * time.Second).WaitStable(250 * time.Millisecond)
}
