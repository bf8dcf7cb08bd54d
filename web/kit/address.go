package kit

import "net/netip"

// AddressKey is what counts as one address: of IPv6 the network of a household, which has 2^64 of them.
func AddressKey(ip string) string {
	a, err := netip.ParseAddr(ip)
	if err != nil {
		return ip
	}
	if a = a.Unmap().WithZone(""); a.Is6() {
		p, _ := a.Prefix(64)
		return p.String()
	}
	return a.String()
}
