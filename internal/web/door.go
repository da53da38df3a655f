package web

import (
	"bytes"
	"encoding/base64"
	"html/template"
	"net"
	"net/http"

	"rsc.io/qr"
)

// Door answers over plain HTTP, where everything else goes over HTTPS: it explains how a phone learns to trust this
// workshop's own authority, hands out its certificate, and leads to the application. It serves nothing else.
type Door struct {
	Root []byte // the authority's certificate, DER
	Port string // of HTTPS
}

var doorPage = template.Must(template.New("door").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>Corriente: coming in</title>
<style>
body{margin:0;background:#f4f0e8;color:#25272b;font:17px/1.5 system-ui,sans-serif}
main{max-width:640px;margin:0 auto;padding:24px 16px 48px}
h1{font-size:26px;line-height:1.25;margin:0 0 8px}
h2{font-size:18px;margin:28px 0 4px}
a.go{display:block;background:#9a4f1e;color:#fff;text-align:center;padding:14px;border-radius:8px;text-decoration:none;font-weight:600;margin:10px 0}
ol{padding-left:22px;margin:6px 0}
img{display:block;width:170px;height:170px;image-rendering:pixelated;background:#fff;padding:8px;border-radius:8px}
.quiet{color:#5d584e}
</style></head><body><main>
<h1>This workshop keeps its data to itself</h1>
<p>Corriente talks to phones and computers over HTTPS. Each device is told once, here, to trust this workshop; after that the application opens by itself, works without a connection and may use the camera.</p>
<h2>1. Take the workshop's certificate</h2>
<a class="go" href="/authority.crt">Download the certificate</a>
<h2>2. Tell the device to trust it</h2>
<p><b>Android:</b></p><ol><li>Open Settings and search for “CA certificate”.</li><li>Choose it, confirm “Install anyway”, and pick the file authority.crt.</li></ol>
<p><b>iPhone, iPad:</b></p><ol><li>Open Settings, “Profile downloaded”, Install.</li><li>Then General, About, Certificate Trust Settings: switch on “Corriente, this workshop's own authority”.</li></ol>
<p><b>A computer:</b></p><ol><li>Open the browser's settings, search for “certificates”, and import authority.crt as an authority for websites.</li></ol>
<p class="quiet">It can vouch for machines on private networks alone, never for a site on the internet.</p>
<h2>3. Open the application</h2>
<a class="go" href="{{.App}}">Open Corriente</a>
<p class="quiet">{{.App}}</p>
<h2>Another device?</h2>
<p>Point its camera here:</p><img alt="QR code of this page's address" src="{{.Code}}">
</main></body></html>
`))

// ServeHTTP answers one request.
func (d *Door) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	h := w.Header()
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Cache-Control", "no-store")
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; img-src data:; base-uri "+
		"'none'; form-action 'none'; frame-ancestors 'none'")
	if r.Method != http.MethodGet && r.Method != http.MethodHead {
		writeProblem(w, http.StatusForbidden, "This address only explains how to come in: use HTTPS.")
		return
	}
	switch r.URL.Path {
	case "/authority.crt":
		h.Set("Content-Type", "application/x-x509-ca-cert")
		h.Set("Content-Disposition", `attachment; filename="authority.crt"`)
		_, _ = w.Write(d.Root)
	case "/":
		d.page(w, r)
	default:
		http.Redirect(w, r, "/", http.StatusSeeOther)
	}
}

func (d *Door) page(w http.ResponseWriter, r *http.Request) {
	host, _, err := net.SplitHostPort(r.Host)
	if err != nil {
		host = r.Host
	}
	app := "https://" + host
	if d.Port != "443" {
		app = "https://" + net.JoinHostPort(host, d.Port)
	}
	data := struct {
		App  string
		Code template.URL
	}{App: app + "/"}
	if c, err := qr.Encode("http://"+r.Host+"/", qr.M); err == nil {
		data.Code = template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(c.PNG()))
	}
	var b bytes.Buffer
	if err := doorPage.Execute(&b, data); err != nil {
		writeProblem(w, http.StatusInternalServerError, "This page could not be made: try again.")
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_, _ = w.Write(b.Bytes())
}
