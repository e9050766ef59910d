package server

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"
	"os"
	"strings"
	"syscall"
	"unicode"
	"unicode/utf8"

	"github.com/labstack/echo/v5"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/layout"
	"hexachord/core/mix"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/ready"
	"hexachord/core/song"
	"hexachord/core/sound"
	"hexachord/core/take"
	"hexachord/format/archive"
	"hexachord/format/bundle"
	"hexachord/format/mapcsv"
	"hexachord/format/midnam"
	"hexachord/format/sfz"
	"hexachord/format/smf"
	"hexachord/service"
	"hexachord/store"
)

// Problem is an error reply a person can read (RFC 9457).
type Problem struct {
	Type   string `json:"type"`
	Title  string `json:"title"`
	Status int    `json:"status"`
	Detail string `json:"detail,omitempty"`
}

func (p *Problem) Error() string { return p.Title + ": " + p.Detail }

func problem(status int, title, detail string) *Problem {
	return &Problem{Type: "about:blank", Title: title, Status: status, Detail: detail}
}

// noKit is the title of what a window tells apart: a file without a kit may still hold samples.
const noKit = "There is no kit in this file"

// noBundle likewise: a zip without a project may still hold a kit.
const noBundle = "There is no project in this file"

// known sorts the faults a person can do something about.
var known = []struct {
	err    error
	status int
	title  string
}{
	{store.ErrFull, http.StatusInsufficientStorage, "The disk is full"},
	{store.ErrNoDisk, http.StatusInsufficientStorage, "The data folder cannot be written"},
	{store.ErrStale, http.StatusConflict, "The project was changed elsewhere"},
	{store.ErrTrashed, http.StatusNotFound, "That is in the trash"},
	{store.ErrTaken, http.StatusConflict, "That name is taken"},
	{store.ErrNotFound, http.StatusNotFound, "That is not here"},
	{store.ErrNoUndo, http.StatusConflict, "Nothing to undo"},
	{store.ErrNoRedo, http.StatusConflict, "Nothing to redo"},
	{service.ErrVoice, http.StatusNotFound, "That sound is not ready"},
	{sound.ErrAudio, http.StatusUnprocessableEntity, "This file cannot be used"},
	{smf.ErrNotMIDI, http.StatusUnprocessableEntity, "This is not a MIDI file"},
	{smf.ErrTruncated, http.StatusUnprocessableEntity, "This MIDI file is damaged"},
	{smf.ErrCoding, http.StatusUnprocessableEntity, "This MIDI file cannot be read"},
	{context.Canceled, 499, "Stopped"},
	{project.ErrSettings, http.StatusUnprocessableEntity, "That setting cannot be used"},
	{play.ErrTooLong, http.StatusUnprocessableEntity, "That is too long"},
	{service.ErrInput, http.StatusUnprocessableEntity, "That cannot be done"},
	{service.ErrRate, http.StatusUnprocessableEntity, "That sample rate cannot be played"},
	{music.ErrTempo, http.StatusUnprocessableEntity, "That tempo cannot be played"},
	{music.ErrMeter, http.StatusUnprocessableEntity, "That meter cannot be used"},
	{music.ErrGrid, http.StatusUnprocessableEntity, "That grid cannot be used"},
	{feel.ErrFeel, http.StatusUnprocessableEntity, "That feel cannot be played"},
	{feel.ErrGroove, http.StatusUnprocessableEntity, "That groove cannot be used"},
	{ready.ErrNone, http.StatusNotFound, "That is not here"},
	{feel.ErrSwing, http.StatusUnprocessableEntity, "That swing cannot be played"},
	{pattern.ErrHit, http.StatusUnprocessableEntity, "That hit cannot be set"},
	{take.ErrStrike, http.StatusUnprocessableEntity, "That was not played so"},
	{song.ErrSong, http.StatusUnprocessableEntity, "The song cannot be so"},
	{mix.ErrMix, http.StatusUnprocessableEntity, "The mix cannot be so"},
	{service.ErrExport, http.StatusUnprocessableEntity, "That cannot be exported"},
	{service.ErrBundle, http.StatusUnprocessableEntity, noBundle},
	{music.ErrScale, http.StatusUnprocessableEntity, "That scale is not known"},
	{project.ErrPass, http.StatusUnprocessableEntity, "That pass cannot be recorded"},
	{pattern.ErrPattern, http.StatusUnprocessableEntity, "That pattern cannot be used"},
	{midnam.ErrMIDNAM, http.StatusUnprocessableEntity, "This MIDNAM file cannot be used"},
	{mapcsv.ErrCSV, http.StatusUnprocessableEntity, "This table cannot be used"},
	{music.ErrNote, http.StatusUnprocessableEntity, "That is no note"},
	{drummap.ErrMap, http.StatusUnprocessableEntity, "That drum map cannot be used"},
	{layout.ErrOptions, http.StatusUnprocessableEntity, "Those samples cannot be laid out"},
	{archive.ErrZip, http.StatusUnprocessableEntity, "This zip file cannot be used"},
	{archive.ErrPath, http.StatusUnprocessableEntity, "This zip file cannot be used"},
	{archive.ErrLarge, http.StatusUnprocessableEntity, "This zip file cannot be used"},
	{service.ErrNoKit, http.StatusUnprocessableEntity, noKit},
	{bundle.ErrBundle, http.StatusUnprocessableEntity, "This kit cannot be read"},
	{sfz.ErrSFZ, http.StatusUnprocessableEntity, "This SFZ file cannot be used"},
	{kit.ErrKit, http.StatusUnprocessableEntity, "That kit cannot be used"},
	{hear.ErrEdit, http.StatusUnprocessableEntity, "That cannot be done with these hits"},
	{hear.ErrListener, http.StatusUnprocessableEntity, "That listener cannot hear"},
	{hear.ErrChannel, http.StatusUnprocessableEntity, "There is no such channel"},
	{hear.ErrMethod, http.StatusUnprocessableEntity, "That cannot be heard"},
}

func problemOf(err error) *Problem {
	var p *Problem
	if errors.As(err, &p) {
		return p
	}
	for _, k := range known {
		if errors.Is(err, k.err) {
			return problem(k.status, k.title, sentence(err.Error()))
		}
	}
	var tooLarge *http.MaxBytesError
	var status echo.HTTPStatusCoder
	switch {
	case errors.As(err, &tooLarge):
		return problem(http.StatusRequestEntityTooLarge, "That is too large", "Start the bench with a larger --upload-limit, or bring a shorter file.")
	case errors.As(err, &status):
		code := status.StatusCode()
		return problem(code, http.StatusText(code), "")
	case errors.Is(err, os.ErrPermission), errors.Is(err, os.ErrNotExist), errors.Is(err, syscall.ENOSPC):
		return problem(http.StatusInternalServerError, "The data folder cannot be used", "Look whether it is there, can be written to and has room; the bench has printed what is wrong.")
	}
	return problem(http.StatusInternalServerError, "Something went wrong in the bench", "Nothing was changed. Try again; if it stays, start the bench anew. It has printed what went wrong.")
}

// sentence writes an error's words as a sentence; a file's name keeps its letters.
func sentence(s string) string {
	s = strings.TrimSuffix(s, ".") + "."
	first, _, _ := strings.Cut(s, " ")
	if strings.ContainsAny(strings.TrimSuffix(first, ":"), ".0123456789") {
		return s
	}
	r, size := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(r)) + s[size:]
}

func replyError(c *echo.Context, err error) {
	p := problemOf(err)
	if p.Status >= http.StatusInternalServerError { // for whoever runs the bench; a reply carries no path and no stack
		slog.Error(p.Title, "method", c.Request().Method, "path", c.Request().URL.Path, "error", store.Cause(err))
	}
	body, jsonErr := json.Marshal(p)
	if jsonErr != nil {
		body = []byte(`{"title":"Something went wrong in the bench","status":500}`)
	}
	_ = c.Blob(p.Status, "application/problem+json", body) // the caller has gone when this fails
}
