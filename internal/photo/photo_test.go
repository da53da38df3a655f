package photo

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sideways is a picture, red on its left, that a camera held on its side has marked to
// be turned a quarter clockwise, with a place written beside it.
func sideways(t *testing.T) []byte {
	t.Helper()
	img := image.NewRGBA(image.Rect(0, 0, 60, 40))
	for y := range 40 {
		for x := range 60 {
			c := color.RGBA{0, 0, 255, 255}
			if x < 30 {
				c = color.RGBA{255, 0, 0, 255}
			}
			img.Set(x, y, c)
		}
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, img, nil))
	// EXIF: little endian, one directory with Orientation (0x0112) = 6 and a comment.
	tiff := []byte("II*\x00\x08\x00\x00\x00\x01\x00")
	tiff = binary.LittleEndian.AppendUint16(tiff, 0x0112)
	tiff = binary.LittleEndian.AppendUint16(tiff, 3)
	tiff = binary.LittleEndian.AppendUint32(tiff, 1)
	tiff = binary.LittleEndian.AppendUint32(tiff, 6)
	tiff = append(tiff, 0, 0, 0, 0)
	tiff = append(tiff, "GPS: the jetty"...)
	app := append([]byte("Exif\x00\x00"), tiff...)
	out := append([]byte{0xff, 0xd8, 0xff, 0xe1}, byte((len(app)+2)>>8), byte(len(app)+2))
	return append(append(out, app...), b.Bytes()[2:]...)
}

func TestAPhotoIsTurnedUprightAndForgetsItsPlace(t *testing.T) {
	c, err := Make(sideways(t))
	require.NoError(t, err)
	assert.Equal(t, 40, c.Width)
	assert.Equal(t, 60, c.Height)
	assert.NotContains(t, string(c.JPEG), "jetty")
	assert.NotContains(t, string(c.JPEG), "Exif")
	img, _, err := image.Decode(bytes.NewReader(c.JPEG))
	require.NoError(t, err)
	r, _, b, _ := img.At(20, 5).RGBA()
	assert.Greater(t, r, b, "what was left is now on top")
	_, _, err = image.Decode(bytes.NewReader(c.Thumb))
	assert.NoError(t, err)
}

func TestWhatIsNoPictureIsRefused(t *testing.T) {
	for _, b := range [][]byte{nil, []byte("no picture"), []byte("\xff\xd8\xff\xe0 torn"), []byte("\x89PNG\r\n\x1a\n torn")} {
		_, err := Make(b)
		assert.ErrorIs(t, err, ErrNoPicture)
	}
	// A picture that claims to be vast is refused before it is unpacked.
	img := image.NewGray(image.Rect(0, 0, 1, 1))
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	raw := b.Bytes()
	binary.BigEndian.PutUint32(raw[16:], 40000)
	binary.BigEndian.PutUint32(raw[20:], 40000)
	_, err := Make(raw)
	assert.Error(t, err)
}

// The eight orientations of EXIF 2.3: the corner that was top left comes where each says.
func TestEveryOrientation(t *testing.T) {
	in := image.NewRGBA(image.Rect(0, 0, 3, 2))
	in.Set(0, 0, color.RGBA{255, 0, 0, 255})
	for o, at := range map[int]image.Point{1: {0, 0}, 2: {2, 0}, 3: {2, 1}, 4: {0, 1}, 5: {0, 0}, 6: {1, 0}, 7: {1, 2}, 8: {0, 2}} {
		out := upright(in, o)
		wide := 3
		if o >= 5 {
			wide = 2
		}
		assert.Equal(t, wide, out.Bounds().Dx(), o)
		assert.Equal(t, uint8(255), out.RGBAAt(at.X, at.Y).R, "orientation %d", o)
	}
}

// A picture of many pixels in a small file is refused before it is unpacked.
func TestAPictureBombIsRefused(t *testing.T) {
	for _, img := range []image.Image{image.NewGray(image.Rect(0, 0, 10000, 7900)), image.NewNRGBA64(image.Rect(0, 0, 6400, 5000))} {
		var b bytes.Buffer
		require.NoError(t, (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&b, img))
		_, err := Make(b.Bytes())
		assert.ErrorIs(t, err, ErrTooLarge)
	}
}

func FuzzMake(f *testing.F) {
	var b bytes.Buffer
	_ = jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, 8, 8)), nil)
	f.Add(b.Bytes())
	f.Add([]byte("\xff\xd8\xff\xe1\x00\x1cExif\x00\x00II*\x00\x08\x00\x00\x00\xff\xff"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if o := Orientation(data); o < 1 || o > 8 {
			t.Fatalf("orientation %d", o)
		}
		if c, err := Make(data); err == nil && (c.Width < 1 || c.Height < 1 || len(c.JPEG) == 0) {
			t.Fatal("a picture without pixels")
		}
	})
}
