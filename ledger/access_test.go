package ledger_test

import (
	"context"
	"crypto/rand"
	"errors"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/ledger"
)

// TestEveryMethodKnowsWhoAsks holds what reads or changes the records to one form: the second parameter is who acts.
func TestEveryMethodKnowsWhoAsks(t *testing.T) {
	t.Parallel()
	// by these an actor becomes known
	makesActors := []string{"Actor", "TokenActor", "SignIn", "Shown", "FirstAdmin", "Readmit", "TakeOver", "Invited", "AcceptInvitation", "SessionData", "SessionActor", "Session", "StoreSession", "EndSession", "Linked", "OpenLink", "Opened", "FeedActor", "ProviderSignIn"}
	readsNothing := []string{"Ready", "Heavily"}
	l := reflect.TypeFor[*ledger.Ledger]()
	checked := 0
	for i := range l.NumMethod() {
		m := l.Method(i)
		if m.Type.NumIn() < 2 || m.Type.In(1) != reflect.TypeFor[context.Context]() ||
			slices.Contains(append(makesActors, readsNothing...), m.Name) {
			continue
		}
		checked++
		require.True(t, m.Type.NumIn() > 2 && m.Type.In(2) == reflect.TypeFor[ledger.Actor](), "%s does not say who acts", m.Name)
	}
	require.Greater(t, checked, 30)
}

// TestMay asks for every act as everybody: what the table opens is not refused for who asks, all else is, and nobody is asked to sign in.
func TestMay(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	record(t, l, "1.0.0", "a: {type: string}")
	publish(t, l, "berths@1.0.0")
	record(t, l, "1.1.0", "a: {type: string}")
	_, err := l.Record(ctx, teodor, ledger.Submission{API: "strict", File: "strict.yaml", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(t, err)
	_, err = l.PutStyle(ctx, ledger.Itself, ledger.StyleScope{API: "strict"}, "house-style: X\nreview: {exceptions: leads}\n", "", 0)
	require.NoError(t, err)
	acts := map[ledger.Act][]func(ledger.Actor) error{
		ledger.ReadInside: {
			func(who ledger.Actor) error { _, err := l.Gate(ctx, who, "berths@1.1.0"); return err },
			func(who ledger.Actor) error { _, err := l.PublishCheck(ctx, who, "berths@1.1.0"); return err },
			func(who ledger.Actor) error { _, err := l.Overlay(ctx, who, "berths@1.1.0"); return err },
			func(who ledger.Actor) error { _, err := l.OverlayView(ctx, who, "berths@1.1.0"); return err },
			func(who ledger.Actor) error { _, err := l.PreviewLinks(ctx, who, "berths@1.1.0"); return err },
			func(who ledger.Actor) error { _, err := l.Revisions(ctx, who, "berths@1.1.0"); return err },
			func(who ledger.Actor) error { _, err := l.FindingsOf(ctx, who, "berths@1.1.0"); return err },
			func(who ledger.Actor) error { _, err := l.Calling(ctx, who, "berths"); return err },
			func(who ledger.Actor) error {
				_, err := l.StyleOf(ctx, who, ledger.StyleScope{API: "berths"})
				return err
			},
			func(who ledger.Actor) error {
				_, err := l.Styles(ctx, who, ledger.StyleScope{API: "berths"})
				return err
			},
		},
		ledger.SeeCalls: {
			func(who ledger.Actor) error { _, err := l.Use(ctx, who, ledger.UseQuestion{API: "berths"}); return err },
			func(who ledger.Actor) error { _, err := l.MayGo(ctx, who, "berths@1.0.0"); return err },
		},
		ledger.AddCalls: {func(who ledger.Actor) error {
			_, err := l.AddLog(ctx, who, ledger.LogWish{Mapping: "x", Text: strings.NewReader("")})
			return err
		}},
		ledger.SaveConsumers: {func(who ledger.Actor) error { return l.SetSigns(ctx, who, "none", "", nil) }},
		ledger.SetPlans: {
			func(who ledger.Actor) error { return l.PutPlan(ctx, who, ledger.Plan{API: "berths"}) },
			func(who ledger.Actor) error { return l.DropPlan(ctx, who, "berths", "none") },
		},
		ledger.AskForUse: {
			func(who ledger.Actor) error { _, err := l.Ask(ctx, who, ledger.RequestWish{}); return err },
			func(who ledger.Actor) error { return l.EndGrant(ctx, who, "none", "none", "1", "") },
		},
		ledger.DecideUse: {
			func(who ledger.Actor) error { return l.Decide(ctx, who, ledger.Decision{API: "berths", State: "x"}) },
			func(who ledger.Actor) error {
				_, _, err := l.CarryOver(ctx, who, ledger.CarryWish{API: "berths", From: "7", To: "8"})
				return err
			},
		},
		ledger.KeepConsumer: {
			func(who ledger.Actor) error { return l.PutConsumer(ctx, who, "X", ledger.ConsumerWish{}) },
			func(who ledger.Actor) error { return l.DropConsumer(ctx, who, "none") },
			func(who ledger.Actor) error { return l.SetTick(ctx, who, "none", ledger.Tick{}) },
		},
		ledger.SeeConsumers: {
			func(who ledger.Actor) error { _, err := l.Logs(ctx, who); return err },
			func(who ledger.Actor) error { _, err := l.Unmatched(ctx, who); return err },
			func(who ledger.Actor) error {
				_, _, err := l.Consumers(ctx, who, ledger.ConsumersQuestion{})
				return err
			},
			func(who ledger.Actor) error { _, err := l.Consumer(ctx, who, "none"); return err },
			func(who ledger.Actor) error { _, err := l.Requests(ctx, who); return err },
			func(who ledger.Actor) error { _, err := l.Grants(ctx, who, "", ""); return err },
		},
		ledger.SeeImpact: {func(who ledger.Actor) error {
			_, err := l.Impact(ctx, who, "none", "none", compare.Options{})
			return err
		}},
		ledger.SeeWaiting: {func(who ledger.Actor) error { _, err := l.Waiting(ctx, who); return err }},
		ledger.SeeJournal: {
			func(who ledger.Actor) error { _, err := l.Journal(ctx, who, ledger.Question{}, 0, 1); return err },
			func(who ledger.Actor) error { _, err := l.Newest(ctx, who, ledger.Question{}, 0, 1); return err },
		},
		ledger.SeePeople: {
			func(who ledger.Actor) error { _, err := l.People(ctx, who); return err },
			func(who ledger.Actor) error { _, err := l.Teams(ctx, who); return err },
		},
		ledger.SetAudience: {
			func(who ledger.Actor) error { return l.SetAudience(ctx, who, "berths", ledger.AudienceWish{}) },
			func(who ledger.Actor) error { _, err := l.Links(ctx, who, "berths"); return err },
			func(who ledger.Actor) error {
				_, _, err := l.MakeLink(ctx, who, "berths", ledger.LinkWish{})
				return err
			},
			func(who ledger.Actor) error { return l.WithdrawLink(ctx, who, "berths", "none") },
		},
		ledger.Place: {
			func(who ledger.Actor) error { return l.Place(ctx, who, "none", "berths", nil) },
			func(who ledger.Actor) error { return l.Unplace(ctx, who, "none", "berths") },
		},
		ledger.Shelve: {
			func(who ledger.Actor) error { return l.PutShelf(ctx, who, "", ledger.ShelfWish{}) },
			func(who ledger.Actor) error { return l.DropShelf(ctx, who, "none") },
		},
		ledger.SeeStyle: {
			func(who ledger.Actor) error { _, err := l.Styles(ctx, who, ledger.StyleScope{}); return err },
			func(who ledger.Actor) error { _, err := l.StyleOf(ctx, who, ledger.StyleScope{}); return err },
		},
		ledger.SetStyle: {
			func(who ledger.Actor) error {
				_, err := l.PutStyle(ctx, who, ledger.StyleScope{API: "berths"}, "", "", 0)
				return err
			},
		},
		ledger.SetHouse: {
			func(who ledger.Actor) error {
				_, err := l.PutStyle(ctx, who, ledger.StyleScope{}, "", "", 0)
				return err
			},
		},
		ledger.SetCalling: {func(who ledger.Actor) error { return l.Set(ctx, who, "berths", ledger.Settings{Undeclared: new("")}) }},
		ledger.Verify:     {func(who ledger.Actor) error { _, err := l.VerifyJournal(ctx, who, ""); return err }},
		ledger.SetTeams: {
			func(who ledger.Actor) error { return l.AddTeam(ctx, who, "") },
			func(who ledger.Actor) error { return l.DropTeam(ctx, who, "none") },
		},
		ledger.SetMembers: {
			func(who ledger.Actor) error { return l.PutMember(ctx, who, "none", "nobody", ledger.Reader) },
			func(who ledger.Actor) error { return l.DropMember(ctx, who, "none", "nobody") },
		},
		ledger.DryRun: {func(who ledger.Actor) error {
			_, err := l.DryRun(ctx, who, ledger.Submission{Text: describe("1.2.0", "")})
			return err
		}},
		ledger.Record: {func(who ledger.Actor) error {
			_, err := l.Record(ctx, who, ledger.Submission{Text: describe("1.2.0", "")})
			return err
		}},
		ledger.Publish: {
			func(who ledger.Actor) error { _, err := l.Publish(ctx, who, "berths@1.0.0", nil); return err },
			func(who ledger.Actor) error { _, err := l.Unpublish(ctx, who, "berths@1.1.0", "why"); return err },
			func(who ledger.Actor) error { _, err := l.Retire(ctx, who, "berths@1.0.0", "why", ""); return err },
		},
		ledger.LetThrough: {func(who ledger.Actor) error {
			_, err := l.Publish(ctx, who, "strict@1.0.0", []ledger.Waive{{Change: "none", Reason: "why"}})
			return err
		}},
		ledger.Announce: {
			func(who ledger.Actor) error {
				_, err := l.Deprecate(ctx, who, ledger.Announcement{Ref: "berths"})
				return err
			},
			func(who ledger.Actor) error { _, err := l.Amend(ctx, who, 1, ledger.Amendment{}); return err },
		},
		ledger.Word: {
			func(who ledger.Actor) error { _, err := l.PutOverlay(ctx, who, "berths", "x", ""); return err },
			func(who ledger.Actor) error { _, err := l.ShowOverlay(ctx, who, "berths"); return err },
			func(who ledger.Actor) error { return l.DropOverlay(ctx, who, "berths") },
			func(who ledger.Actor) error {
				_, err := l.WriteGuide(ctx, who, ledger.GuideText{Old: "berths", New: "berths"})
				return err
			},
		},
		ledger.Arrange: {
			func(who ledger.Actor) error {
				_, err := l.PutLooks(ctx, who, "berths", ledger.Looks{Font: "x"})
				return err
			},
			func(who ledger.Actor) error { _, err := l.PutPicture(ctx, who, "berths", "x", nil); return err },
			func(who ledger.Actor) error { return l.DropPicture(ctx, who, "berths", "x") },
			func(who ledger.Actor) error {
				return l.Set(ctx, who, "berths", ledger.Settings{Switcher: &ledger.Picks{"9"}})
			},
		},
		ledger.SharePreview: {
			func(who ledger.Actor) error { _, err := l.CreatePreviewLink(ctx, who, "berths", -1); return err },
			func(who ledger.Actor) error { return l.WithdrawPreview(ctx, who, "berths", "none") },
		},
		ledger.Discard: {
			func(who ledger.Actor) error { return l.Discard(ctx, who, "berths@1.0.0") },
			func(who ledger.Actor) error { return l.DiscardAPI(ctx, who, "berths") },
		},
		ledger.Move: {func(who ledger.Actor) error {
			return l.Set(ctx, who, "berths", ledger.Settings{Team: new("Q"), Line: "x"})
		}},
		ledger.SetPromise: {func(who ledger.Actor) error { return l.Set(ctx, who, "berths", ledger.Settings{Promise: new("x")}) }},
		ledger.MakeToken: {
			func(who ledger.Actor) error { _, err := l.MakeToken(ctx, who, ledger.TokenWish{Label: ""}); return err },
			func(who ledger.Actor) error { return l.DropFeed(ctx, who) },
		},
		ledger.SetPeriod: {func(who ledger.Actor) error { return l.Set(ctx, who, "berths", ledger.Settings{NoticeDays: new(-2)}) }},
		ledger.SetPassword: {
			func(who ledger.Actor) error { return l.ChangePassword(ctx, who, "x", "y") },
			func(who ledger.Actor) error { return l.EndSessions(ctx, who) },
		},
		ledger.SetPeople: {
			func(who ledger.Actor) error { _, err := l.Invite(ctx, who, "nobody"); return err },
			func(who ledger.Actor) error { return l.AddPerson(ctx, who, ledger.Person{}, "") },
			func(who ledger.Actor) error { return l.SetRole(ctx, who, "nobody", "x") },
			func(who ledger.Actor) error { return l.DropPerson(ctx, who, "nobody") },
		},
	}
	require.Len(t, acts, len(ledger.Access), "every act is asked for")
	for act, ways := range acts {
		for _, try := range ways {
			require.Equal(t, ledger.SignInFirst, fault(try(ledger.Nobody)), act)
			for _, role := range append(ledger.TeamRoles, ledger.Admin, ledger.Auditor, ledger.NoRole, "harbour master") {
				refused := fault(try(ledger.By(ledger.Person{Name: "somebody", Full: "Somebody", Role: role}))) == ledger.Forbidden
				require.Equal(t, !slices.Contains(ledger.Access[act], role), refused, "%s: %s", role, act)
			}
		}
	}
}

// TestAccessIsInTheManual holds the manual's table of roles to the one that decides.
func TestAccessIsInTheManual(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("../docs/manual/people.md")
	require.NoError(t, err)
	said := 0
	for _, line := range strings.Split(string(text), "\n") {
		cells := strings.Split(strings.Trim(line, "|"), "|")
		roles, there := ledger.Access[ledger.Act(strings.TrimSpace(cells[0]))]
		if len(cells) != 8 || !there {
			continue
		}
		said++
		for i, role := range append([]ledger.Role{ledger.Admin, ledger.Auditor}, ledger.TeamRoles...) {
			require.Equal(t, slices.Contains(roles, role), strings.TrimSpace(cells[i+1]) == "✓", "%s: %s", cells[0], role)
		}
	}
	for _, roles := range ledger.Access {
		if slices.Contains(roles, ledger.NoRole) {
			said++ // whoever is signed in may: the text below the table says so
		}
	}
	require.Equal(t, len(ledger.Access), said, "every act stands in the table")
}

// fault is what kind of refusal an error is; "" for none.
func fault(err error) ledger.Fault {
	var refused *ledger.Error
	if errors.As(err, &refused) {
		return refused.Fault
	}
	return ""
}

// TestTurns counts for readers what readers see, and for the house everything; another service over the same records counts the same.
func TestTurns(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, l := open(t)
	other := ledger.New(s, ledger.Options{Now: time.Now, Random: rand.Reader, Recheck: time.Nanosecond})
	generations := func() [4]int64 {
		require.Equal(t, l.Generation(teodor, "berths"), other.Generation(teodor, "berths"))
		require.Equal(t, l.Generation(ledger.Nobody, "berths"), other.Generation(ledger.Nobody, "berths"))
		return [4]int64{
			l.Generation(teodor, "berths"), l.Generation(ledger.Nobody, "berths"), l.Generation(teodor, ""),
			l.Generation(ledger.Nobody, ""),
		}
	}
	require.Equal(t, [4]int64{}, generations())
	record(t, l, "1.0.0", "a: {type: string}")
	require.Equal(t, [4]int64{1, 0, 1, 0}, generations(), "a draft")
	record(t, l, "1.0.0", "a: {type: string}")
	require.Equal(t, int64(0), generations()[1], "the same again")
	publish(t, l, "berths@1.0.0")
	after := generations()
	require.Equal(t, int64(1), after[1])
	record(t, l, "1.1.0", "a: {type: string}, b: {type: string}")
	_, err := l.PutOverlay(ctx, teodor, "berths@1.0.0",
		"overlay: 1.0.0\ninfo: {title: O, version: 1.0.0}\nactions: [{target: $.info, update: {description: Said.}}]\n", "")
	require.NoError(t, err)
	require.Equal(t, after[1], generations()[1], "drafts")
	require.Greater(t, generations()[0], after[0])
	_, err = l.ShowOverlay(ctx, teodor, "berths@1.0.0")
	require.NoError(t, err)
	require.Equal(t, int64(2), generations()[1])
	_, err = l.PutLooks(ctx, teodor, "", ledger.Looks{Font: "plex"})
	require.NoError(t, err)
	require.Equal(t, int64(3), generations()[1], "what concerns all concerns each")
	require.Equal(t, int64(1), l.Generation(ledger.Nobody, "quays"))
}
