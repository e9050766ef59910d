package service

import (
	"fmt"
	"strings"

	"hexachord/core/view"
	"hexachord/store"
)

// ProjectCard is a project as it is chosen by: what is known of it, and its picture.
type ProjectCard struct {
	store.ProjectInfo
	view.Picture
	Bytes int64 `json:"bytes"` // that its sounds take
}

// cardKey names a picture: it changes with its project's revision and name.
type cardKey struct {
	id, name string
	revision int64
}

// mostCards are held.
const mostCards = 2000

// ProjectCards lists the projects with their pictures, last changed first.
func (b *Bench) ProjectCards() ([]ProjectCard, error) {
	infos, err := b.Projects()
	if err != nil {
		return nil, err
	}
	sizes, err := b.AudioSizes()
	if err != nil {
		return nil, err
	}
	out := make([]ProjectCard, 0, len(infos))
	for _, info := range infos {
		key := cardKey{info.ID, info.Name, info.Revision}
		picture, ok := b.cards.Get(key)
		if !ok {
			p, err := b.Peek(info.ID)
			if err != nil {
				return nil, err
			}
			picture = view.PictureOf(p)
			b.cards.Add(key, picture)
		}
		card := ProjectCard{ProjectInfo: info, Picture: picture}
		for _, hash := range picture.Sounds {
			card.Bytes += sizes[hash]
		}
		out = append(out, card)
	}
	return out, nil
}

// RenameProject gives a project another name; "" lets it be called after what is in it.
func (b *Bench) RenameProject(id, name string) error {
	name = strings.TrimSpace(name)
	if len([]rune(name)) > 200 {
		return fmt.Errorf("%w: a project's name has at most 200 characters", ErrInput)
	}
	return b.Store.RenameProject(id, name)
}

// DuplicateProject copies a project as it is now under its title with a number no other has.
func (b *Bench) DuplicateProject(id string) (copied string, err error) {
	p, err := b.Load(id)
	if err != nil {
		return "", err
	}
	all, err := b.Projects()
	if err != nil {
		return "", err
	}
	taken := map[string]bool{}
	for _, o := range all {
		taken[o.Name] = true
	}
	name := ""
	for n := 2; name == "" || taken[name]; n++ {
		name = fmt.Sprintf("%s, copy", p.Title())
		if n > 2 {
			name = fmt.Sprintf("%s, copy %d", p.Title(), n-1)
		}
	}
	return b.Store.DuplicateProject(id, name)
}
