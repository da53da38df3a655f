package photo

import (
	"bytes"
	"encoding/binary"
)

// Orientation reads how a JPEG's camera was held, 1 to 8 (EXIF 2.3, tag 0x0112 of the first
// directory); 1 where nothing readable says so.
func Orientation(data []byte) int {
	if len(data) < 4 || data[0] != 0xff || data[1] != 0xd8 {
		return 1
	}
	for at := 2; at+4 <= len(data) && data[at] == 0xff; {
		marker, size := data[at+1], int(binary.BigEndian.Uint16(data[at+2:]))
		if marker == 0xda || size < 2 || at+2+size > len(data) { // the picture itself, or torn
			return 1
		}
		body := data[at+4 : at+2+size]
		if tiff, ok := bytes.CutPrefix(body, []byte("Exif\x00\x00")); marker == 0xe1 && ok {
			return orientation(tiff)
		}
		at += 2 + size
	}
	return 1
}

func orientation(tiff []byte) int {
	if len(tiff) < 8 {
		return 1
	}
	var order binary.ByteOrder
	switch string(tiff[:4]) {
	case "II*\x00":
		order = binary.LittleEndian
	case "MM\x00*":
		order = binary.BigEndian
	default:
		return 1
	}
	at := int64(order.Uint32(tiff[4:]))
	if at+2 > int64(len(tiff)) {
		return 1
	}
	n := int(order.Uint16(tiff[at:]))
	for k := range n {
		e := at + 2 + 12*int64(k)
		if e+12 > int64(len(tiff)) {
			return 1
		}
		if order.Uint16(tiff[e:]) == 0x0112 && order.Uint16(tiff[e+2:]) == 3 {
			if v := int(order.Uint16(tiff[e+8:])); v >= 1 && v <= 8 {
				return v
			}
			return 1
		}
	}
	return 1
}
