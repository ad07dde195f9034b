package inbox

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/mail"
)

// Where Ebbe keeps folders of its own, what is snoozed lies in one of them, and all else
// leaves them for where it belongs; where it does not, all leaves them.
func TestErrandsInFoldersOfEbbe(t *testing.T) {
	on, off := AllCarried, AllCarried
	on.Folders.On = true
	nothing := Carries{}
	for _, c := range []struct {
		name    string
		place   Place
		left    []Place
		from    mail.Role
		own     bool
		carries Carries
		to      mail.Role
	}{
		{"snoozed here", Snoozed, []Place{Inbox}, mail.RoleInbox, false, on, mail.RoleSnoozed},
		{"snoozed before the folders were there", Snoozed, nil, mail.RoleInbox, false, on, mail.RoleSnoozed},
		{"snoozed from elsewhere", Snoozed, []Place{Inbox}, mail.RoleTomorrow, false, on, mail.RoleSnoozed},
		{"snoozed and there", Snoozed, []Place{Inbox}, mail.RoleSnoozed, false, on, ""},
		{"snoozed from the archive", Snoozed, []Place{Archived}, mail.RoleArchive, false, on, mail.RoleSnoozed},
		{"back", Inbox, []Place{Snoozed}, mail.RoleSnoozed, false, on, mail.RoleInbox},
		{"back, though nothing else is carried", Inbox, nil, mail.RoleSnoozed, false, nothing, mail.RoleInbox},
		{"followed up", Archived, []Place{Inbox}, mail.RoleFollowUp, false, on, mail.RoleArchive},
		{"put away for good", Bin, []Place{Inbox}, mail.RoleNever, false, on, mail.RoleBin},
		{"taught", Inbox, nil, mail.RoleStream + "choir", false, on, mail.RoleInbox},
		{"held", Held, nil, mail.RoleTomorrow, false, on, mail.RoleInbox},
		{"one's own", Archived, nil, mail.RoleWaiting, true, on, mail.RoleSent},
		{"without folders", Snoozed, []Place{Inbox}, mail.RoleInbox, false, off, ""},
		{"folders that are wanted no more", Snoozed, nil, mail.RoleWas, false, off, mail.RoleInbox},
	} {
		out := Errands(Conversation{Position: Position{Place: c.place}}, c.left, []Copy{{Message: 1, UID: 1, Role: c.from, Own: c.own, Seen: true}}, func(int64) Carries { return c.carries })
		to := mail.Role("")
		for _, e := range out {
			to = e.To
		}
		assert.Equal(t, c.to, to, c.name)
	}
	k, c := Follow(Conversation{Position: Position{Place: Snoozed}}, Elsewhere{To: mail.RoleInbox, From: mail.RoleSnoozed, Newest: true}, 5)
	require.Equal(t, []any{ToInbox, Inbox}, []any{k, c.Place}, "taken out of the snoozed by another program")
	k, _ = Follow(Conversation{Position: Position{Place: Inbox}}, Elsewhere{To: mail.RoleTomorrow, Last: true}, 5)
	require.Empty(t, k, "the folder asks what is to be done")
}

// The folders have names of one part below the one they stand in, each another; a name that
// cannot be is the usual one, and two that are the same are told.
func TestNamesOfFoldersOfEbbe(t *testing.T) {
	f := KeptFolders{On: true, Root: " Tide/\\", Names: map[mail.Role]string{mail.RoleTomorrow: "Ma/ñana*", mail.RoleWaiting: "//"}}
	all := f.All(map[string]string{"a": "choir", "b": "Choir", "c": "Snoozed"})
	require.Equal(t, "Tide", all[mail.RoleRoot])
	require.Equal(t, []string{"Tide/Ma ñana", "Tide/Waiting", "Tide/choir"}, []string{all[mail.RoleTomorrow], all[mail.RoleWaiting], all[mail.RoleStream+"a"]})
	require.NotContains(t, all, mail.RoleStream+"b", "another stream has that name")
	require.NotContains(t, all, mail.RoleStream+"c", "and that is the name of a folder")
	require.NoError(t, f.Valid())
	f.Names[mail.RoleNever] = "waiting"
	require.ErrorContains(t, f.Valid(), "two of the folders are called")

	rapid.Check(t, func(t *rapid.T) {
		f := KeptFolders{Root: rapid.String().Draw(t, "root"), Names: map[mail.Role]string{}}
		for _, r := range mail.KeptRoles {
			f.Names[r] = rapid.String().Draw(t, string(r))
		}
		seen := map[string]bool{}
		for r, name := range f.All(map[string]string{"a": rapid.String().Draw(t, "stream")}) {
			require.True(t, r.Kept())
			require.False(t, seen[name], name)
			seen[name] = true
			require.NotContains(t, name[len(f.All(nil)[mail.RoleRoot]):], "//")
		}
	})
}
