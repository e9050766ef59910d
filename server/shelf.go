package server

import (
	"context"
	"errors"
	"io"
	"mime"
	"mime/multipart"
	"net/http"
	"path"
	"strings"

	"github.com/labstack/echo/v5"

	"hexachord/core/kind"
	"hexachord/core/layout"
	"hexachord/core/shelf"
	"hexachord/service"
)

type (
	// SamplePath names a sample in an address.
	SamplePath struct {
		Hash string `param:"hash" path:"hash" json:"-"`
	}
	findRequest struct {
		Text       string  `query:"text" json:"-"`
		Kind       string  `query:"kind" json:"-"`
		Tag        string  `query:"tag" json:"-"`
		Folder     string  `query:"folder" json:"-"`
		MaxSeconds float64 `query:"maxSeconds" json:"-"`
		UsedIn     string  `query:"usedIn" json:"-"` // ID of a project: only the samples its kit sounds
		Sort       string  `query:"sort" json:"-"`
		Like       string  `query:"like" json:"-"`
		Offset     int     `query:"offset" json:"-"`
		Limit      int     `query:"limit" json:"-"`
	}
	importSamplesReply struct {
		Reports []service.SampleReport `json:"reports"`
	}
	correctRequest struct {
		SamplePath
		Kind *kind.Kind `json:"kind,omitempty"` // "" leaves it to name and sound
		Tags []string   `json:"tags,omitempty"`
	}
	waveRequest struct {
		SamplePath
		Start   int `query:"start" json:"-"`
		End     int `query:"end" json:"-"`
		Columns int `query:"columns" required:"true" json:"-"`
	}
	trimRequest struct {
		SamplePath
		BelowDB float64 `query:"belowDB" required:"true" json:"-"`
	}
	trimReply struct {
		StartFrame int `json:"startFrame"`
		EndFrame   int `json:"endFrame"`
	}
	snapRequest struct {
		SamplePath
		Frame int    `query:"frame" required:"true" json:"-"`
		To    string `query:"to" required:"true" enum:"zero,attack" json:"-"`
	}
	snapReply struct {
		Frame int `json:"frame"`
	}
	auditionRequest struct {
		SamplePath
		Start int     `query:"start" json:"-"`
		End   int     `query:"end" json:"-"`
		Rate  int     `query:"rate" required:"true" json:"-"`
		BPM   float64 `query:"bpm" json:"-"` // tempo at which a loop is heard
	}
	auditionReply struct {
		Voice string  `json:"voice"`
		Gain  float64 `json:"gain"` // at which it is as loud as the others
	}
	cutRequest struct {
		SamplePath
		Strength float64 `json:"strength"` // 0..1
		MinGapMS float64 `json:"minGapMS"`
		DeadDB   float64 `json:"deadDB"`
		Marks    []int   `json:"marks,omitempty"` // frames; given, the cuts are made there
	}
	cutReply struct {
		Pieces []layout.Piece `json:"pieces"`
	}
	partRequest struct {
		SamplePath
		Start int `query:"start" json:"-"`
		End   int `query:"end" json:"-"`
	}
)

func (s *Server) addShelfRoutes(api *echo.Group) {
	handle(s, api, http.MethodGet, "/samples", "findSamples", "Look for samples on the shelf",
		func(_ *echo.Context, r findRequest) (shelf.Result, error) { return s.findSamples(r) })
	handle(s, api, http.MethodPost, "/samples", "importSamples", "Bring files or zips (multipart fields “file”, their names with their folders) to the shelf",
		func(c *echo.Context, _ files) (importSamplesReply, error) {
			brought, err := s.uploads(c)
			if err != nil {
				return importSamplesReply{}, err
			}
			reports, err := s.bench.ImportSamples(c.Request().Context(), brought)
			return importSamplesReply{reports}, err
		})
	handle(s, api, http.MethodGet, "/samples/:hash", "getSample", "What is known of a sample",
		func(_ *echo.Context, r SamplePath) (shelf.Item, error) { return s.bench.Sample(r.Hash) })
	handle(s, api, http.MethodPost, "/samples/:hash", "correctSample", "Say what a sample is, or tag it",
		func(_ *echo.Context, r correctRequest) (shelf.Item, error) {
			return s.bench.CorrectSample(r.Hash, r.Kind, r.Tags)
		})
	handle(s, api, http.MethodGet, "/samples/:hash/wave", "drawSample", "A stretch of a sample drawn",
		func(_ *echo.Context, r waveRequest) (service.Wave, error) {
			return s.bench.DrawSample(r.Hash, r.Start, r.End, r.Columns)
		})
	handle(s, api, http.MethodGet, "/samples/:hash/trim", "trimSample", "Where a sample begins and ends to sound above a level",
		func(_ *echo.Context, r trimRequest) (trimReply, error) {
			from, to, err := s.bench.Trim(r.Hash, r.BelowDB)
			return trimReply{from, to}, err
		})
	handle(s, api, http.MethodGet, "/samples/:hash/snap", "snapSample", "The zero crossing or attack nearest to a frame",
		func(c *echo.Context, r snapRequest) (snapReply, error) {
			at, err := s.bench.Snap(c.Request().Context(), r.Hash, r.Frame, r.To)
			return snapReply{at}, err
		})
	handle(s, api, http.MethodGet, "/samples/:hash/audition", "auditionSample", "The voice by which a sample is heard on its own",
		func(_ *echo.Context, r auditionRequest) (auditionReply, error) {
			voice, gain, err := s.bench.Audition(r.Hash, r.Start, r.End, r.Rate, r.BPM)
			return auditionReply{voice, gain}, err
		})
	handle(s, api, http.MethodPost, "/samples/:hash/cut", "cutSample", "The pieces of a recording, between its attacks or the marks given",
		func(c *echo.Context, r cutRequest) (cutReply, error) {
			buf, err := s.bench.Decode(r.Hash)
			if err != nil {
				return cutReply{}, err
			}
			pieces, err := layout.Cut(c.Request().Context(), buf, layout.CutOptions{Strength: r.Strength, MinGapS: r.MinGapMS / 1000, DeadDB: r.DeadDB, Marks: r.Marks})
			return cutReply{pieces}, err
		})
	handle(s, api, http.MethodGet, "/samples/:hash/tempo", "getSampleTempo", "The tempo, meter and first bar heard in a recording",
		func(c *echo.Context, r SamplePath) (service.Tempo, error) {
			return s.bench.TempoOf(c.Request().Context(), r.Hash)
		})
	handleBlob(s, api, "/samples/:hash/part", "getPart", "A part of a sample as WAV at its own rate and depth", "audio/wav",
		func(_ *echo.Context, r partRequest) (blob, error) {
			name, data, err := s.bench.RegionWAV(r.Hash, r.Start, r.End)
			return blob{name: name, data: data}, err
		})
}

// mostFound bounds how many samples one reply lists.
const mostFound = 500

func (s *Server) findSamples(r findRequest) (shelf.Result, error) {
	q := shelf.Query{Text: r.Text, Kind: kind.Kind(r.Kind), Tag: r.Tag, Folder: r.Folder, MaxSeconds: r.MaxSeconds,
		Sort: shelf.Sort(r.Sort), Like: r.Like, Offset: r.Offset, Limit: min(mostFound, or(r.Limit, 100))}
	if r.UsedIn != "" {
		p, err := s.bench.Load(r.UsedIn)
		if err != nil {
			return shelf.Result{}, err
		}
		q.Used = map[string]bool{}
		for _, h := range p.Kit.Samples() {
			q.Used[h] = true
		}
	}
	return s.bench.FindSamples(q)
}

type (
	// oneFile and files are the bodies of uploads, for the API's description; upload and uploads read them.
	oneFile struct {
		File multipart.File `formData:"file" json:"-" required:"true"`
	}
	files struct {
		File []multipart.File `formData:"file" json:"-" required:"true"` // names may have folders
	}
)

// uploads reads every multipart field “file”, together no larger than the limit. A file's name may have folders.
func (s *Server) uploads(c *echo.Context) (brought []service.SampleFile, err error) {
	err = s.eachUpload(c, func(name string, data []byte) error {
		folder, base := path.Split(path.Clean("/" + strings.ReplaceAll(name, `\`, "/")))
		brought = append(brought, service.SampleFile{Name: base, Folder: strings.Trim(folder, "/"), Data: data})
		return nil
	})
	if err == nil && len(brought) == 0 {
		err = errNoFile
	}
	return brought, err
}

// upload reads the first multipart field “file”.
func (s *Server) upload(c *echo.Context) (name string, data []byte, err error) {
	found := errors.New("found")
	err = s.eachUpload(c, func(n string, d []byte) error {
		name, data = path.Base(strings.ReplaceAll(n, `\`, "/")), d
		return found
	})
	switch {
	case errors.Is(err, found):
		return name, data, nil
	case err == nil:
		return "", nil, errNoFile
	}
	return "", nil, err
}

var errNoFile = problem(http.StatusBadRequest, "No file came with the request", "Send it as the multipart field “file”.")

func (s *Server) eachUpload(c *echo.Context, f func(name string, data []byte) error) error {
	r := c.Request()
	r.Body = http.MaxBytesReader(c.Response(), r.Body, s.config.UploadLimit)
	parts, err := r.MultipartReader()
	if err != nil {
		return errNoFile
	}
	for {
		part, err := parts.NextPart()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		if part.FormName() != "file" {
			continue
		}
		_, params, err := mime.ParseMediaType(part.Header.Get("Content-Disposition"))
		if err != nil {
			return errNoFile
		}
		data, err := io.ReadAll(part)
		if err != nil {
			return err
		}
		if err := f(params["filename"], data); err != nil {
			return err
		}
		if err := c.Request().Context().Err(); err != nil {
			return context.Cause(c.Request().Context())
		}
	}
}
