package demo

import (
	"bytes"

	"oldledger/ledger"
)

// relies says what a consumer relies on, as its developers wrote it.
func relies(consumer string) func(*player) error {
	return func(p *player) error {
		text, err := files.ReadFile("recordings/" + consumer + "/relies.yaml")
		if err != nil {
			return err
		}
		return p.ledger.Rely(p.ctx, p.who, consumer, string(text))
	}
}

// recorded keeps what a consumer was recorded to do with a version.
func recorded(consumer, version string) func(*player) error {
	return func(p *player) error {
		archive, err := files.ReadFile("recordings/" + consumer + "/calls.har")
		if err != nil {
			return err
		}
		wish := ledger.RecordingWish{Consumer: consumer, Version: version, Archive: bytes.NewReader(archive)}
		_, err = p.ledger.AddRecording(p.ctx, p.who, wish)
		return err
	}
}
