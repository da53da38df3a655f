// Package proof names the few readings and checks that show a repair to be good, with the band of a
// good machine of this kind made before they are taken.
package proof
