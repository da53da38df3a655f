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
func Browser(trust ...string) (b *rod.Browser, closeBrowser func(), err error) {
	bin := "/usr/bin/chromium"
	if _, err := os.Stat(bin); err != nil {
		if bin, err = exec.LookPath("chromium"); err != nil {
			return nil, nil, errors.New("chromium is missing: run scripts/setup.sh test")
		}
	}
	l := launcher.New().Bin(bin).Headless(true).NoSandbox(true).
		Set("disable-gpu").Set("disable-quic").Set("no-first-run").Set("disable-background-networking").
		Set("force-prefers-reduced-motion").
		Set("disable-component-update").Set("disable-sync").Set("disable-dev-shm-usage").Set("force-color-profile", "srgb")
	if len(trust) > 0 {
		l.Set("ignore-certificate-errors-spki-list", trust...)
	}
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

// Settle waits until the page rests: nothing under way that it shows, nothing moving,
// and nothing drawn anew for a quarter of a second. The error says what did not rest.
func Settle(p *rod.Page) error {
	if err := p.WaitLoad(); err != nil {
		return err
	}
	_, err := p.Eval(`() => new Promise((rest) => {
		window.unrest = () => {
			const busy = document.querySelector("[aria-busy=true], .ant-spin-spinning, .ant-btn-loading, progress:not([value='0'])");
			if (busy) return busy.outerHTML.slice(0, 200);
			const moving = document.getAnimations().find((a) => a.playState === "running" && a.effect?.getComputedTiming().iterations !== Infinity);
			return moving ? "moving: " + (moving.effect?.target?.outerHTML.slice(0, 200) ?? "") : "";
		};
		let quiet = 0;
		const seen = new MutationObserver((list) => { quiet = 0; window.drawn = list[0].target.nodeName + "." + list[0].target.className; });
		seen.observe(document.body, { subtree: true, childList: true, attributes: true });
		const look = setInterval(() => {
			quiet = window.unrest() ? 0 : quiet + 1;
			if (quiet < 6) return;
			clearInterval(look);
			seen.disconnect();
			rest();
		}, 50);
	})`)
	if err == nil {
		return nil
	}
	why, again := p.CancelTimeout().Timeout(5 * time.Second).Eval(`() => (window.unrest?.() || "nothing") + "; last drawn " + window.drawn`)
	if again != nil {
		return err
	}
	return fmt.Errorf("the page does not rest: %s", why.Value.Str())
}
