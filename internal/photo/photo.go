// Package photo makes a camera's picture fit to be kept: upright, without what the
// camera wrote beside it (place, time, device), with a thumbnail.
package photo

import (
	"bytes"
	"errors"
	"image"
	"image/color"
	_ "image/png" // PNG is read too
	"net/http"

	"github.com/disintegration/imaging"
)

// Bounds of what is taken.
const (
	MaxBytes  = 40 << 20 // of the file
	maxPixels = 80e6
	maxSide   = 4096 // of the picture as it is kept
	thumbSide = 320
	quality   = 86
)

// ErrNoPicture says that a file is no picture that can be kept.
var ErrNoPicture = errors.New("this is no photo: choose a JPEG or PNG picture")

// ErrTooLarge says that a picture has more pixels than are taken.
var ErrTooLarge = errors.New("this picture has more than 80 million pixels: take it smaller")

// Clean is a picture as it is kept.
type Clean struct {
	JPEG          []byte
	Thumb         []byte // JPEG
	Width, Height int
}

// Make decodes a JPEG or PNG picture, turns it upright by its own EXIF note and encodes
// it anew, so that nothing else of that note is kept.
func Make(data []byte) (*Clean, error) {
	switch http.DetectContentType(data) {
	case "image/jpeg", "image/png":
	default:
		return nil, ErrNoPicture
	}
	// What it claims to be is asked before it is unpacked.
	cfg, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil || cfg.Width < 1 || cfg.Height < 1 {
		return nil, ErrNoPicture
	}
	if float64(cfg.Width)*float64(cfg.Height) > maxPixels {
		return nil, ErrTooLarge
	}
	img, err := imaging.Decode(bytes.NewReader(data), imaging.AutoOrientation(true))
	if err != nil {
		return nil, ErrNoPicture
	}
	if b := img.Bounds(); b.Dx() > maxSide || b.Dy() > maxSide {
		img = imaging.Fit(img, maxSide, maxSide, imaging.Linear)
	}
	b := img.Bounds()
	flat := imaging.New(b.Dx(), b.Dy(), color.White) // a PNG may be clear in places
	img = imaging.Overlay(flat, img, image.Point{}, 1)
	c := &Clean{Width: b.Dx(), Height: b.Dy()}
	if c.JPEG, err = encode(img); err != nil {
		return nil, err
	}
	c.Thumb, err = encode(imaging.Fit(img, thumbSide, thumbSide, imaging.Box))
	return c, err
}

func encode(img image.Image) ([]byte, error) {
	var buf bytes.Buffer
	err := imaging.Encode(&buf, img, imaging.JPEG, imaging.JPEGQuality(quality))
	return buf.Bytes(), err
}
