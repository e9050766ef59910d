package e2e

import (
	"cmp"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/song"
	"hexachord/demo"
	"hexachord/format/smf"
	"hexachord/format/wav"
)

// songView is a project's song as the window has it.
type songView struct {
	Revision int64
	Undo     string
	Song     struct {
		End      int
		Sections []struct {
			ID    string
			Value song.Section
		}
		Faults map[string]string
		Bars   []struct{ At float64 }
	}
	Blocks []struct {
		ID    string
		Value song.Block
	}
	Patterns []struct {
		ID    string
		Value pattern.Pattern
	}
}

func (b *bench) song(id string) (s songView) {
	b.t.Helper()
	b.getJSON("api/v1/projects/"+id, &s)
	return s
}

// emptySong takes all blocks and sections out, so that a song is laid from nothing.
func (b *bench) emptySong(id string) {
	b.t.Helper()
	s := b.song(id)
	var blocks, sections []string
	for _, o := range s.Blocks {
		blocks = append(blocks, o.ID)
	}
	for _, o := range s.Song.Sections {
		sections = append(sections, o.ID)
	}
	b.post("api/v1/projects/"+id+"/edits", map[string]any{"revision": s.Revision, "edits": []any{map[string]any{"song": map[string]any{"remove": blocks, "removeSections": sections}}}}, nil)
}

// words writes what lies where: each block's pattern and bars, then the sections.
func (s songView) words() string {
	names := map[string]string{}
	for _, p := range s.Patterns {
		names[p.ID] = p.Value.Name
	}
	blocks := slices.Clone(s.Blocks)
	slices.SortFunc(blocks, func(a, b struct {
		ID    string
		Value song.Block
	}) int {
		return cmp.Or(a.Value.Bar-b.Value.Bar, len(a.Value.Recording)-len(b.Value.Recording))
	})
	var out []string
	for _, b := range blocks {
		name := names[b.Value.Pattern]
		if b.Value.Recording != "" {
			name = "recording"
		}
		out = append(out, fmt.Sprintf("%s %d-%d", name, b.Value.Bar+1, b.Value.End()))
	}
	for _, s := range s.Song.Sections {
		out = append(out, fmt.Sprintf("[%s %d-%d]", s.Value.Name, s.Value.Bar+1, s.Value.End()))
	}
	return strings.Join(out, ", ")
}

// From one bar to a song of 24 bars with four sections and a fill in every eighth bar, by the keyboard alone; the break runs under bars 9
// to 12; a pattern is edited while the song plays on, and everything is undone and done again across a restart.
func TestABarBecomesASong(t *testing.T) {
	dir := t.TempDir()
	file, _, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	recorded := filepath.Join(t.TempDir(), "deck-break.wav")
	if err := os.WriteFile(recorded, file.Data, 0o600); err != nil {
		t.Fatal(err)
	}
	b := start(t, dir)
	id := b.firstProject()
	b.emptySong(id)
	w := browse(t, b.address)
	w.until("something to play", `hexachordPlayer.ready`)
	w.key("3")
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="recording-file"]`), []string{recorded}))
	w.until("heard", `document.querySelectorAll('[data-heard]').length>10`)
	for range 20 { // the reply to the recording shows Break once more
		w.key("5")
		time.Sleep(200 * time.Millisecond)
	}
	w.until("Song", `document.querySelector('[data-id="song-stage"]')!==null`)
	before := b.song(id)
	blocks := func(n int) {
		t.Helper()
		w.until(fmt.Sprint(n, " blocks"), fmt.Sprintf(`document.querySelectorAll('[data-row="first"] [data-block]').length===%d`, n))
	}
	name := func(section string) {
		t.Helper()
		w.key("y")
		w.until("its name is asked for", `document.querySelector('.ant-modal input')!==null`)
		w.do(chromedp.KeyEvent(section + kb.Enter))
		w.until("named", fmt.Sprintf(`document.querySelector('[data-section=%q]')!==null&&document.querySelector('.ant-modal-wrap:not([style*="none"])')===null`, section))
	}
	fill := func(then int) {
		t.Helper()
		w.key("L", chromedp.ModifierShift)
		w.until("the fill is heard", `document.querySelector('[data-id="trial"]')!==null&&hexachordPlayer.last?.playing`)
		w.key("L", chromedp.ModifierShift)
		blocks(then)
		w.until("kept", `document.querySelector('[data-id="trial"]')===null`)
	}
	w.do(chromedp.KeyEvent(kb.Enter))
	blocks(1)
	w.do(chromedp.KeyEvent(kb.ArrowLeft + kb.Enter))
	w.key("+++++++")
	w.until("eight bars", `document.querySelector('[data-id="song-length"]').textContent.startsWith('8 bars')`)
	fill(2)
	w.key(" ") // what was heard of it goes on otherwise
	w.do(chromedp.KeyEvent(kb.Escape + kb.Home))
	for range 7 {
		w.do(chromedp.KeyEvent(kb.ArrowRight, chromedp.KeyModifiers(chromedp.ModifierShift)))
	}
	name("verse")
	w.do(chromedp.KeyEvent(kb.Escape + kb.Home))
	w.key("d", chromedp.ModifierCtrl)
	blocks(4)
	w.do(chromedp.KeyEvent(kb.End + kb.PageDown + kb.Enter)) // night ferry, two bars
	blocks(5)
	w.do(chromedp.KeyEvent(kb.ArrowLeft + kb.Enter))
	w.key("+")
	w.until("20 bars", `document.querySelector('[data-id="song-length"]').textContent.startsWith('20 bars')`)
	name("bridge")
	w.do(chromedp.KeyEvent(kb.Escape))
	w.key("d", chromedp.ModifierCtrl)
	blocks(6)
	w.do(chromedp.KeyEvent(kb.End + kb.ArrowLeft + kb.Enter))
	fill(7)
	w.key(" ")
	w.do(chromedp.KeyEvent(kb.Home))
	for range 8 {
		w.do(chromedp.KeyEvent(kb.ArrowRight))
	}
	w.press(`[data-lay-recording]`)
	w.until("the break lies under it", `document.querySelectorAll('[data-row="recordings"] [data-block]').length===1`)
	w.saved()
	made := b.song(id)
	want := "towpath 1-7, towpath fill 8-8, towpath 9-15, recording 9-12, towpath fill 16-16, night ferry 17-20, night ferry 21-22, night ferry fill 23-24, " +
		"[verse 1-8], [verse 9-16], [bridge 17-20], [bridge 21-24]"
	if got := made.words(); got != want || len(made.Song.Faults) != 0 {
		t.Fatalf("%s\nnot\n%s", got, want)
	}
	// the song plays; a hit set in the verse is heard in every bar of it, and nothing sounds twice
	w.do(chromedp.KeyEvent(kb.Escape + kb.ArrowUp + kb.Home + kb.Enter))
	w.key(" ", chromedp.ModifierShift)
	w.key(" ")
	w.until("it plays", `hexachordPlayer.last?.playing&&hexachordPlayer.pass.length>60`)
	w.key("o")
	w.until("Steps, while it plays", `document.querySelector('[data-id="stage"]')!==null&&hexachordPlayer.last.playing&&hexachordPlayer.pass.length>60`)
	cuesOf := func(note int) string {
		return fmt.Sprintf(`hexachordPlayer.pass.cues.filter(c=>c.note===%d).length`, note)
	}
	crashes := eval[int](w, cuesOf(49))
	towpath := made.Patterns[0]
	b.post("api/v1/projects/"+id+"/edits", map[string]any{"revision": made.Revision, "edits": []any{map[string]any{"pattern": map[string]any{"id": towpath.ID,
		"edit": map[string]any{"hits": map[string]any{"put": []pattern.Hit{{Note: 49, Tick: 1920, Velocity: 90}}}}}}}}, nil)
	w.until("it is heard in the bars that come", cuesOf(49)+fmt.Sprintf(`>=%d`, crashes+7))
	w.soon("a bar has passed", `hexachordPlayer.last.atS>3`)
	if twice := eval[int](w, `(()=>{const s=hexachordPlayer.started.filter(x=>!x.live).map(x=>x.note+' '+x.plannedFrame+' '+x.layer);return s.length-new Set(s).size})()`); twice != 0 {
		t.Errorf("%d cues were started twice", twice)
	}
	w.key(" ")
	var sounds struct{ Pass play.Pass }
	if f, err := smf.Decode(b.get("api/v1/projects/" + id + "/song/midi")); err != nil || len(f.Tracks) < 8 || f.EndsAt != 24*3840 {
		t.Errorf("the song's MIDI file: %v", err)
	}
	if a, _, err := wav.Decode(b.get("api/v1/projects/" + id + "/song/wav?rate=44100&bits=16&fromBar=8&toBar=10&tail=cut")); err != nil || math.Abs(a.Seconds()-2*4*60.0/92) > 0.01 || a.Peak() < 0.1 {
		t.Errorf("two bars of the song, bounced: %v", err)
	}
	b.getJSON(fmt.Sprintf("api/v1/projects/%s/song/pass?rate=48000&toBar=24", id), &sounds)
	if want := 16.0 * 4 * 60 / 92; len(sounds.Pass.Strokes) < 400 || sounds.Pass.LengthS < want {
		t.Errorf("the song sounds %d strokes in %.1f s", len(sounds.Pass.Strokes), sounds.Pass.LengthS)
	}
	made = b.song(id)
	steps := 0
	for ; b.song(id).words() != before.words() && steps < 60; steps++ {
		w.key("z", chromedp.ModifierCtrl)
		w.saved()
	}
	b.stop()
	b = start(t, dir)
	again := browse(t, b.address)
	again.until("open", `window.hexachordPlayer?.ready`)
	for range steps {
		again.key("z", chromedp.ModifierCtrl, chromedp.ModifierShift)
		again.saved()
	}
	if got := b.song(id).words(); got != made.words() || got != want {
		t.Errorf("done again after a restart: %s", got)
	}
}

// A second part on the MIDI receiver with a map of its own: its pattern plays beside the first part's, and both lie in the song; what is done
// in it leaves the first part as it is, undo takes it away again, and another window follows.
func TestASecondPartPlaysToMIDI(t *testing.T) {
	b := start(t, t.TempDir())
	id := b.firstProject()
	b.emptySong(id)
	w, other := browse(t, b.address), browse(t, b.address)
	for _, x := range []window{w, other} {
		x.until("something to play", `hexachordPlayer.ready`)
	}
	lanes := eval[int](w, `document.querySelectorAll('.lane').length`)
	w.click(`[data-id="part-menu"]`)
	w.until("its list", `document.querySelector('.ant-dropdown-menu-item')!==null`)
	_ = eval[bool](w, `([...document.querySelectorAll('.ant-dropdown-menu-item')].find(e=>e.textContent.includes('MIDI output')).click(),true)`)
	w.until("the second part", `document.querySelector('[data-id="part-menu"]').textContent==='2 of 2'`)
	other.until("the other window has it", `document.querySelector('[data-id="part-menu"]').textContent==='1 of 2'`)
	var p struct {
		Parts []struct {
			ID    string
			Title string
			Lanes []struct{ Note int }
		}
		songView
	}
	b.getJSON("api/v1/projects/"+id, &p)
	if len(p.Parts) != 2 || p.Parts[1].Title != "MIDI" || len(p.Parts[0].Lanes) != lanes {
		t.Fatalf("parts: %+v", p.Parts)
	}
	// a hit in its pattern reaches the receiver while the first part's pattern plays, too
	first := p.Patterns[0]
	own := p.Patterns[len(p.Patterns)-1]
	if own.Value.Part != p.Parts[1].ID {
		t.Fatalf("the last pattern belongs to %q", own.Value.Part)
	}
	w.do(chromedp.KeyEvent(kb.Tab))
	b.post("api/v1/projects/"+id+"/edits", map[string]any{"revision": p.Revision, "part": p.Parts[1].ID, "edits": []any{map[string]any{"pattern": map[string]any{"id": own.ID,
		"edit": map[string]any{"hits": map[string]any{"put": []pattern.Hit{{Note: 38, Tick: 960, Velocity: 77}}}}}}}}, nil)
	w.until("it is shown", `document.querySelectorAll('[data-hit]').length===1`)
	w.key(" ")
	w.until("both sound", `hexachordPlayer.last?.playing&&hexachordPlayer.pass.cues.some(c=>c.note>=128)&&hexachordPlayer.pass.strokes.some(s=>s.note===38&&s.velocity===77)`)
	w.key(" ")
	var beside struct{ Pass play.Pass }
	b.getJSON(fmt.Sprintf("api/v1/projects/%s/patterns/%s/pass?rate=48000&with=%s", id, first.ID, own.ID), &beside)
	found := 0
	for _, s := range beside.Pass.Strokes {
		if s.Note == 2*play.NotesAPart+38 {
			found++
		}
	}
	if found != 1 { // its two bars beside one: once
		t.Errorf("beside the first part's pattern it strikes %d times", found)
	}
	for _, c := range beside.Pass.Cues {
		if c.Note >= 2*play.NotesAPart {
			t.Errorf("a part that plays to MIDI sounds a kit: %+v", c)
		}
	}
	// in the song
	w.key("5")
	w.until("two rows", `document.querySelectorAll('.songgroups .songrow').length===2`)
	w.do(chromedp.KeyEvent(kb.ArrowDown))
	w.do(chromedp.KeyEvent(kb.Enter))
	w.until("laid in its row", fmt.Sprintf(`document.querySelectorAll('[data-row=%q] [data-block]').length===1`, p.Parts[1].ID))
	w.saved()
	var sounds struct{ Pass play.Pass }
	b.getJSON(fmt.Sprintf("api/v1/projects/%s/song/pass?rate=48000&toBar=4", id), &sounds)
	if n := len(sounds.Pass.Strokes); n != 1 || sounds.Pass.Strokes[0].Note != play.SongNote(1, 38) || len(sounds.Pass.Cues) != 0 {
		t.Errorf("the song sends %+v and sounds %d cues", sounds.Pass.Strokes, len(sounds.Pass.Cues))
	}
	for range 3 {
		w.key("z", chromedp.ModifierCtrl)
		w.saved()
	}
	w.until("one part again", `document.querySelector('[data-id="part-menu"]').textContent==='+ part'`)
	if now := b.song(id); len(now.Patterns) != len(p.Patterns)-1 || len(now.Blocks) != 0 {
		t.Errorf("%d patterns and %d blocks are left", len(now.Patterns), len(now.Blocks))
	}
}

// A MIDI file becomes a song once one has seen what it comes to; the bars of a recording become patterns of their own, those alike one, with
// sections proposed.
func TestASongIsLaidFromFiles(t *testing.T) {
	dir := t.TempDir()
	file, _, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	recorded, whole := filepath.Join(dir, "deck-break.wav"), filepath.Join(dir, "whole.mid")
	f := smf.File{PPQ: 960, Meter: music.CommonTime, Tempi: []smf.TempoChange{{BPM: 110}}, EndsAt: 6 * 3840, Tracks: []smf.Track{{Name: "d"}}}
	for bar := range 6 {
		f.Tracks[0].Notes = append(f.Tracks[0].Notes, smf.Note{Tick: bar * 3840, Length: 9, Channel: 10, Key: 36, Velocity: 100})
	}
	f.Tracks[0].Notes = append(f.Tracks[0].Notes, smf.Note{Tick: 5*3840 + 960, Length: 9, Channel: 10, Key: 38, Velocity: 100})
	for path, data := range map[string][]byte{recorded: file.Data, whole: smf.Encode(f)} {
		if err := os.WriteFile(path, data, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	b := start(t, t.TempDir())
	id := b.firstProject()
	b.emptySong(id)
	w := browse(t, b.address)
	w.until("something to play", `hexachordPlayer.ready`)
	w.key("5")
	w.until("Song", `document.querySelector('[data-id="song-stage"]')!==null`)
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="song-file"]`), []string{whole}))
	w.until("what it comes to", `document.querySelector('.ant-modal-confirm')?.textContent.includes('6 bars with 7 hits become 2 patterns')`)
	if s := b.song(id); len(s.Blocks) != 0 {
		t.Error("it was laid before it was agreed to")
	}
	_ = eval[bool](w, `([...document.querySelectorAll('.ant-modal-confirm button')].find(b=>b.textContent==='Lay it').click(),true)`)
	w.until("it is laid", `document.querySelectorAll('[data-row="first"] [data-block]').length===2`)
	w.saved()
	if got := b.song(id).words(); !strings.HasPrefix(got, "whole 1 1-5, whole 2 6-6, [section 1 1-") {
		t.Errorf("laid: %s", got)
	}
	w.until("the question is gone", `document.querySelector('.ant-modal-confirm')===null&&document.activeElement===document.body`)
	w.key("3")
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="recording-file"]`), []string{recorded}))
	w.until("heard", `document.querySelectorAll('[data-heard]').length>10`)
	var p struct {
		Revision   int64
		Recordings []struct {
			ID    string
			Heard struct{ Bars int }
		}
	}
	b.getJSON("api/v1/projects/"+id, &p)
	b.post("api/v1/projects/"+id+"/edits", map[string]any{"revision": p.Revision, "edits": []any{map[string]any{"layHeard": map[string]any{"recording": p.Recordings[0].ID, "bar": 8, "along": true}}}}, nil)
	after := b.song(id)
	bars := 0
	for _, x := range after.Blocks {
		if x.Value.Pattern != "" && x.Value.Bar >= 8 {
			bars += x.Value.Bars
		}
	}
	if bars != p.Recordings[0].Heard.Bars || !strings.Contains(after.words(), fmt.Sprintf("recording 9-%d", 8+bars)) {
		t.Errorf("of %d bars %d are laid: %s", p.Recordings[0].Heard.Bars, bars, after.words())
	}
}

// laySong lays a song of two parts on the first project, its recording under bars 9 to 12, in three steps of the history.
func (b *bench) laySong() {
	b.t.Helper()
	id := b.firstProject()
	edit := func(part string, edits ...any) (s songView) {
		s = b.song(id)
		b.post("api/v1/projects/"+id+"/edits", map[string]any{"revision": s.Revision, "part": part, "edits": edits}, nil)
		return b.song(id)
	}
	s := b.song(id)
	first, second := s.Patterns[0].ID, s.Patterns[1].ID
	var p struct{ Recordings []struct{ ID string } }
	b.getJSON("api/v1/projects/"+id, &p)
	edit("", map[string]any{"layShape": map[string]any{"shape": "verse and chorus", "patterns": []string{first, second}}})
	s = edit("", map[string]any{"addPart": map[string]any{"name": "Weigh House", "copyOf": "", "patterns": true}})
	own := s.Patterns[len(s.Patterns)-1]
	for _, p := range s.Patterns {
		if p.Value.Part != "" && p.Value.Name == "night ferry" {
			own = p
		}
	}
	var put []any
	for _, at := range [][2]int{{12, 8}, {28, 8}} {
		put = append(put, map[string]any{"block": song.Block{Part: own.Value.Part, Pattern: own.ID, Bar: at[0], Bars: at[1], LeftOut: []int{36, 42}}})
	}
	put = append(put, map[string]any{"block": song.Block{Recording: p.Recordings[0].ID, Bar: 8, Bars: 4, FadeOutS: 1}})
	edit("", map[string]any{"song": map[string]any{"put": put}})
}

// A performance of a pattern is heard, also without, before it is kept as blocks; put back, nothing is left of it.
func TestAPerformanceIsHeardBeforeItIsKept(t *testing.T) {
	b := start(t, t.TempDir())
	id := b.firstProject()
	b.emptySong(id)
	w := browse(t, b.address)
	w.until("something to play", `hexachordPlayer.ready`)
	w.key("5")
	w.until("Song", `document.querySelector('[data-id="perform"]')!==null`)
	w.click(`[data-id="perform"]`)
	w.until("eight bars are heard", `hexachordPlayer.last?.playing&&Math.abs(hexachordPlayer.pass.length-8*4*60/92)<0.01&&hexachordPlayer.pass.cues.length>100`)
	performed := eval[int](w, `hexachordPlayer.pass.cues.reduce((n,c)=>n*31+c.velocity*7+c.note|0,0)`)
	press := func(word string) {
		t.Helper()
		_ = eval[bool](w, `([...document.querySelectorAll('[data-id="perform-song"] button')].find(b=>b.textContent===`+quoted(word)+`).click(),true)`)
	}
	press("Without")
	w.until("as it is", fmt.Sprintf(`hexachordPlayer.pass.cues.reduce((n,c)=>n*31+c.velocity*7+c.note|0,0)!==%d`, performed))
	press("Without")
	w.until("and performed, the same", fmt.Sprintf(`hexachordPlayer.pass.cues.reduce((n,c)=>n*31+c.velocity*7+c.note|0,0)===%d`, performed))
	if s := b.song(id); len(s.Blocks) != 0 || len(s.Patterns) != 2 {
		t.Errorf("tried only, %d blocks are there", len(s.Blocks))
	}
	press("Put back")
	w.until("put back", `document.querySelector('[data-id="perform"]')!==null`)
	w.click(`[data-id="perform"]`)
	w.until("again", `document.querySelector('[data-id="keep-performance"]')!==null`)
	w.click(`[data-id="keep-performance"]`)
	w.until("kept", `document.querySelectorAll('[data-row="first"] [data-block]').length===8`)
	w.saved()
	if s := b.song(id); s.Song.End != 8 || len(s.Patterns) != 10 {
		t.Errorf("%d bars of %d patterns are kept", s.Song.End, len(s.Patterns))
	}
}
