package authority

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"
)

const (
	rootHolds  = 10 * 365 * 24 * time.Hour
	holds      = 397 * 24 * time.Hour // browsers take no longer ones (common practice)
	renewFrom  = 30 * 24 * time.Hour  // before its end
	lookEvery  = time.Minute          // whether names or addresses have changed
	backdate   = time.Hour            // clocks of phones differ
	rootFile   = "authority.pem"
	rootKey    = "authority-key.pem"
	commonName = "Corriente, this workshop's own authority"
)

// private are the addresses the authority may sign for: loopback, link-local and the private ranges of RFC 1918,
// RFC 4193 and RFC 6598.
var private = []string{"127.0.0.0/8", "10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16",
	"100.64.0.0/10", "::1/128", "fc00::/7", "fe80::/10"}

// privateNames end in what no public name ends in (RFC 6761, RFC 6762, RFC 8375), and lan and internal by custom.
var privateNames = []string{"localhost", "local", "lan", "internal", "home.arpa", "test"}

// Authority signs certificates for this machine. It is safe for concurrent use.
type Authority struct {
	root  *x509.Certificate
	key   *ecdsa.PrivateKey
	hosts func() []string
	now   func() time.Time

	mu     sync.Mutex
	leaf   *tls.Certificate
	of     []string // the names and addresses the leaf is for
	looked time.Time
}

// Open reads the authority kept in a folder, or makes one there. hosts says the names and addresses of this machine
// as they are; nil takes them from the system.
func Open(dir string, hosts func() []string) (*Authority, error) {
	if hosts == nil {
		hosts = Hosts
	}
	a := &Authority{hosts: hosts, now: time.Now}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the folder for certificates cannot be made: %w", err)
	}
	cert, err := os.ReadFile(filepath.Join(dir, rootFile))
	if errors.Is(err, os.ErrNotExist) {
		return a, a.make(dir)
	}
	if err != nil {
		return nil, err
	}
	key, err := os.ReadFile(filepath.Join(dir, rootKey))
	if err != nil {
		return nil, fmt.Errorf("the authority's key is missing: put %s back from a backup, or remove %s to make a "+
			"new authority, which every phone then has to be given", filepath.Join(dir, rootKey), filepath.Join(dir, rootFile))
	}
	pair, err := tls.X509KeyPair(cert, key)
	if err != nil {
		return nil, fmt.Errorf("%s and its key do not go together: put both back from a backup: %w", filepath.Join(dir, rootFile), err)
	}
	if a.root, err = x509.ParseCertificate(pair.Certificate[0]); err != nil {
		return nil, err
	}
	k, ok := pair.PrivateKey.(*ecdsa.PrivateKey)
	if !ok || !a.root.IsCA {
		return nil, fmt.Errorf("%s is no authority of ours: remove it to make a new one", filepath.Join(dir, rootFile))
	}
	if a.now().After(a.root.NotAfter) {
		return nil, fmt.Errorf("the authority in %s ended on %s: remove it to make a new one, which every phone then has to be given",
			dir, a.root.NotAfter.Format("2 January 2006"))
	}
	a.key = k
	return a, nil
}

func serial() (*big.Int, error) { return rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120)) }

// make makes a new authority, the key first: a certificate without its key would be taken for one that lost it.
func (a *Authority) make(dir string) error {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return err
	}
	n, err := serial()
	if err != nil {
		return err
	}
	t := &x509.Certificate{SerialNumber: n, Subject: pkix.Name{CommonName: commonName},
		NotBefore: a.now().Add(-backdate), NotAfter: a.now().Add(rootHolds),
		IsCA: true, BasicConstraintsValid: true, MaxPathLenZero: true, KeyUsage: x509.KeyUsageCertSign | x509.KeyUsageCRLSign,
		PermittedDNSDomainsCritical: true, PermittedDNSDomains: slices.Clone(privateNames)}
	for _, p := range private {
		_, ipnet, err := net.ParseCIDR(p)
		if err != nil {
			return err
		}
		t.PermittedIPRanges = append(t.PermittedIPRanges, ipnet)
	}
	if h, err := os.Hostname(); err == nil && h != "" && !allowedName(h) {
		t.PermittedDNSDomains = append(t.PermittedDNSDomains, strings.ToLower(h))
	}
	der, err := x509.CreateCertificate(rand.Reader, t, t, key.Public(), key)
	if err != nil {
		return err
	}
	b, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return err
	}
	for _, f := range []struct {
		name, kind string
		der        []byte
	}{{rootKey, "PRIVATE KEY", b}, {rootFile, "CERTIFICATE", der}} {
		if err := os.WriteFile(filepath.Join(dir, f.name), pem.EncodeToMemory(&pem.Block{Type: f.kind, Bytes: f.der}), 0o600); err != nil {
			return fmt.Errorf("the authority cannot be kept: %w", err)
		}
	}
	a.key = key
	a.root, err = x509.ParseCertificate(der)
	return err
}

// Root is the authority's certificate, DER: what a phone has to be given.
func (a *Authority) Root() []byte { return a.root.Raw }

// Certificate is for [tls.Config.GetCertificate]: it covers the names and addresses this machine has now, and is
// made anew when they change and thirty days before it ends.
func (a *Authority) Certificate(*tls.ClientHelloInfo) (*tls.Certificate, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	now := a.now()
	if a.leaf != nil && now.Sub(a.looked) < lookEvery && now.Add(renewFrom).Before(a.leaf.Leaf.NotAfter) {
		return a.leaf, nil
	}
	a.looked = now
	hosts := a.signable(a.hosts())
	if a.leaf != nil && slices.Equal(hosts, a.of) && now.Add(renewFrom).Before(a.leaf.Leaf.NotAfter) {
		return a.leaf, nil
	}
	leaf, err := a.sign(hosts)
	if err != nil {
		return nil, err
	}
	a.leaf, a.of = leaf, hosts
	return leaf, nil
}

// Covered are the names and addresses of this machine that the certificate is for.
func (a *Authority) Covered() []string { return a.signable(a.hosts()) }

func (a *Authority) sign(hosts []string) (*tls.Certificate, error) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, err
	}
	n, err := serial()
	if err != nil {
		return nil, err
	}
	end := a.now().Add(holds)
	if end.After(a.root.NotAfter) {
		end = a.root.NotAfter
	}
	t := &x509.Certificate{SerialNumber: n, Subject: pkix.Name{CommonName: "Corriente"}, NotBefore: a.now().Add(-backdate), NotAfter: end,
		KeyUsage: x509.KeyUsageDigitalSignature, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}}
	for _, h := range hosts {
		if ip := net.ParseIP(h); ip != nil {
			t.IPAddresses = append(t.IPAddresses, ip)
		} else {
			t.DNSNames = append(t.DNSNames, h)
		}
	}
	der, err := x509.CreateCertificate(rand.Reader, t, a.root, key.Public(), a.key)
	if err != nil {
		return nil, err
	}
	leaf, err := x509.ParseCertificate(der)
	return &tls.Certificate{Certificate: [][]byte{der, a.root.Raw}, PrivateKey: key, Leaf: leaf}, err
}

// signable keeps what the authority may sign for, sorted.
func (a *Authority) signable(hosts []string) []string {
	var out []string
	for _, h := range hosts {
		h = strings.ToLower(strings.TrimSuffix(h, "."))
		ok := false
		if ip := net.ParseIP(h); ip != nil {
			ok = slices.ContainsFunc(a.root.PermittedIPRanges, func(n *net.IPNet) bool { return n.Contains(ip) })
		} else {
			ok = slices.ContainsFunc(a.root.PermittedDNSDomains, func(d string) bool { return within(h, d) })
		}
		if ok && !slices.Contains(out, h) {
			out = append(out, h)
		}
	}
	slices.Sort(out)
	return out
}

func within(name, domain string) bool { return name == domain || strings.HasSuffix(name, "."+domain) }

func allowedName(h string) bool {
	return slices.ContainsFunc(privateNames, func(d string) bool { return within(strings.ToLower(h), d) })
}

// Hosts are the names and addresses of this machine as the system says them.
func Hosts() []string {
	out := []string{"localhost"}
	if h, err := os.Hostname(); err == nil && h != "" {
		out = append(out, h)
		if !strings.Contains(h, ".") {
			out = append(out, h+".local", h+".lan", h+".home.arpa")
		}
	}
	as, err := net.InterfaceAddrs()
	if err != nil {
		return out
	}
	for _, x := range as {
		if n, ok := x.(*net.IPNet); ok {
			out = append(out, n.IP.String())
		}
	}
	return out
}
