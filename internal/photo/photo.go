package photo

import (
	"bytes"
	"errors"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	_ "image/png" // PNG is read too
	"net/http"

	xdraw "golang.org/x/image/draw"
)

// Bounds of what is taken.
const (
	MaxBytes  = 40 << 20 // of the file
	maxPixels = 50e6     // a progressive JPEG of so many takes some 400 MB to unpack
	maxMemory = 250e6    // bytes of a picture unpacked: of a PNG with 16 bits a colour fewer pixels
	maxSide   = 4096     // of the picture as it is kept
	thumbSide = 320
	quality   = 86
)

// ErrNoPicture says that a file is no picture that can be kept.
var ErrNoPicture = errors.New("this is no photo: choose a JPEG or PNG picture")

// ErrTooLarge says that a picture has more pixels than are taken.
var ErrTooLarge = errors.New("this picture has more than 50 million pixels, or more colours than can be unpacked here: take it smaller")

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
	if px := float64(cfg.Width) * float64(cfg.Height); px > maxPixels || px*depth(cfg.ColorModel) > maxMemory {
		return nil, ErrTooLarge
	}
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, ErrNoPicture
	}
	// Small first, then upright: what is unpacked is never copied at its full size.
	kept := upright(fit(img, maxSide, xdraw.ApproxBiLinear), Orientation(data))
	b := kept.Bounds()
	c := &Clean{Width: b.Dx(), Height: b.Dy()}
	if c.JPEG, err = encode(kept); err != nil {
		return nil, err
	}
	c.Thumb, err = encode(fit(kept, thumbSide, xdraw.BiLinear))
	return c, err
}

// depth is the bytes that a pixel of a colour model takes.
func depth(m color.Model) float64 {
	switch m {
	case color.RGBA64Model, color.NRGBA64Model:
		return 8
	case color.YCbCrModel:
		return 3
	case color.GrayModel:
		return 1
	case color.Gray16Model:
		return 2
	}
	return 4
}

// fit draws a picture on white, within a square of a side.
func fit(img image.Image, side int, how xdraw.Scaler) *image.RGBA {
	b := img.Bounds()
	w, h := b.Dx(), b.Dy()
	if m := max(w, h); m > side {
		w, h = max(1, w*side/m), max(1, h*side/m)
	}
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(out, out.Bounds(), image.White, image.Point{}, draw.Src) // a PNG may be clear in places
	if w == b.Dx() && h == b.Dy() {
		draw.Draw(out, out.Bounds(), img, b.Min, draw.Over)
	} else {
		how.Scale(out, out.Bounds(), img, b, xdraw.Over, nil)
	}
	return out
}

// upright turns a picture by the orientation that its camera noted, 1 to 8 (EXIF 2.3, tag 0x0112).
func upright(in *image.RGBA, orientation int) *image.RGBA {
	if orientation < 2 || orientation > 8 {
		return in
	}
	w, h := in.Bounds().Dx(), in.Bounds().Dy()
	size := image.Rect(0, 0, w, h)
	if orientation >= 5 {
		size = image.Rect(0, 0, h, w)
	}
	out := image.NewRGBA(size)
	for y := range h {
		for x := range w {
			to := [...]image.Point{2: {w - 1 - x, y}, 3: {w - 1 - x, h - 1 - y}, 4: {x, h - 1 - y}, 5: {y, x},
				6: {h - 1 - y, x}, 7: {h - 1 - y, w - 1 - x}, 8: {y, w - 1 - x}}[orientation]
			copy(out.Pix[out.PixOffset(to.X, to.Y):][:4], in.Pix[in.PixOffset(x, y):][:4])
		}
	}
	return out
}

func encode(img image.Image) ([]byte, error) {
	var buf bytes.Buffer
	err := jpeg.Encode(&buf, img, &jpeg.Options{Quality: quality})
	return buf.Bytes(), err
}
