package web

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"corriente/core/phrase"
	"corriente/internal/photo"
	"corriente/internal/store"
)

// maxPiece is the most of an upload that is sent at once, in bytes: small enough that a
// poor line loses little when it breaks.
const maxPiece = 4 << 20

// Uploaded says how far the upload of a photo has come.
type Uploaded struct {
	At   int  `json:"at" doc:"bytes that arrived: go on from here"`
	Done bool `json:"done" doc:"the photo stands"`
}

// keepPhoto makes a picture fit to be kept and keeps it.
func (s *Server) keepPhoto(ctx context.Context, id uuid.UUID, data []byte, by uuid.UUID) error {
	select {
	case s.photos <- struct{}{}:
	case <-ctx.Done():
		return s.fail(ctx, "photo", ctx.Err())
	}
	c, err := photo.Make(data)
	<-s.photos
	if errors.Is(err, photo.ErrNoPicture) || errors.Is(err, photo.ErrTooLarge) {
		_ = s.st.DropUpload(ctx, id)
		return huma.Error422UnprocessableEntity(phrase.Sentence(err.Error()))
	}
	if err == nil {
		err = s.st.PutPhoto(ctx, id, c.JPEG, c.Thumb, by)
	}
	if err != nil {
		return s.fail(ctx, "photo", err)
	}
	return nil
}

func (s *Server) photoRoutes(get, put opFunc) {
	whole := put("put_photo", "/api/photos/{id}", "A photo, JPEG or PNG, at once")
	whole.MaxBodyBytes, whole.SkipValidateBody = maxBody, true
	huma.Register(s.api, whole, func(ctx context.Context, in *struct {
		ID      uuid.UUID `path:"id" format:"uuid"`
		RawBody []byte    `contentType:"image/*"`
	}) (*struct{}, error) {
		u := caller(ctx)
		id := in.ID
		return nil, s.keepPhoto(ctx, id, in.RawBody, u.ID)
	})
	huma.Register(s.api, get("upload", "/api/photos/{id}/upload", "How far the upload of a photo has come"),
		s.upload)
	piece := put("upload_piece", "/api/photos/{id}/upload", "A piece of a photo; the last one makes the photo")
	piece.MaxBodyBytes, piece.SkipValidateBody = maxPiece+1, true
	huma.Register(s.api, piece, func(ctx context.Context, in *struct {
		ID      uuid.UUID `path:"id" format:"uuid"`
		At      int       `query:"at" minimum:"0" doc:"bytes before this piece"`
		Size    int       `query:"size" minimum:"1" doc:"bytes of the whole photo"`
		RawBody []byte    `contentType:"application/octet-stream"`
	}) (*out[Uploaded], error) {
		u := caller(ctx)
		id := in.ID
		if in.Size > photo.MaxBytes {
			return nil, huma.Error422UnprocessableEntity("This photo is larger than 40 MB: take it smaller.")
		}
		// The first bytes say whether it is a picture at all: no need to wait for the rest.
		if in.At == 0 && len(in.RawBody) >= 16 {
			if m := http.DetectContentType(in.RawBody); m != "image/jpeg" && m != "image/png" {
				return nil, huma.Error422UnprocessableEntity(phrase.Sentence(photo.ErrNoPicture.Error()))
			}
		}
		if _, done, err := s.st.Upload(ctx, id); err != nil {
			return nil, s.fail(ctx, "upload", err)
		} else if done {
			return body(Uploaded{in.Size, true}), nil
		}
		at, all, err := s.st.AddPart(ctx, store.Piece{Of: id, Size: in.Size, At: in.At, Data: in.RawBody}, u.ID)
		if errors.Is(err, store.ErrGap) {
			return nil, huma.Error409Conflict("This piece does not follow on what arrived before: ask how far it " +
				"came, and go on from there.")
		}
		if err != nil {
			return nil, s.fail(ctx, "upload", err)
		}
		if all == nil {
			return body(Uploaded{At: at}), nil
		}
		if err := s.keepPhoto(ctx, id, all, u.ID); err != nil {
			return nil, err
		}
		return body(Uploaded{at, true}), nil
	})
	huma.Register(s.api, huma.Operation{OperationID: "photo", Method: http.MethodGet, Path: "/api/photos/{id}",
		Summary: "A photo"}, s.photo)
}

// uploadIn is the request of upload.
type uploadIn struct {
	ID uuid.UUID `path:"id" format:"uuid"`
}

// upload answers GET /api/photos/{id}/upload: how far the upload of a photo has come.
func (s *Server) upload(ctx context.Context, in *uploadIn) (*out[Uploaded], error) {
	id := in.ID
	at, done, err := s.st.Upload(ctx, id)
	if err != nil {
		return nil, s.fail(ctx, "upload", err)
	}
	return body(Uploaded{at, done}), nil
}

// photoIn is the request of photo.
type photoIn struct {
	ID    uuid.UUID `path:"id" format:"uuid"`
	Thumb bool      `query:"thumb" doc:"small"`
}

// photo answers GET /api/photos/{id}: a photo.
func (s *Server) photo(ctx context.Context, in *photoIn) (*photoOut, error) {
	id := in.ID
	mime, data, err := s.st.Photo(ctx, id, in.Thumb)
	if err != nil {
		return nil, s.fail(ctx, "photo", err)
	}
	return &photoOut{"private, max-age=31536000, immutable", mime, data}, nil
}

type photoOut struct {
	Cache string `header:"Cache-Control"`
	Type  string `header:"Content-Type"`
	Body  []byte
}
