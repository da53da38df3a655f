// Package serialline reads meters that report by themselves over a serial or USB line of this machine: one line a
// reading, the dial and what the display shows.
//
//	DCV 12.34 V
//	OHM OL
//
// Such a meter is not told what to measure: its dial is turned by hand, and what it stands on is compared with what is
// wanted. Eight bits, no parity, one stop bit; 9600 baud, or what stands behind the address: /dev/ttyUSB0@2400.
package serialline
