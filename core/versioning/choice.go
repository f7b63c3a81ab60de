package versioning

// Choice is how callers choose one version. The zero Choice says nothing.
type Choice struct {
	Scheme  Scheme
	Version Version
}

// Said reports whether anybody said how the version is chosen.
func (c Choice) Said() bool { return c.Scheme.By != "" }

// Says is in words how a caller chooses the version: "by the path, with /v2".
func (c Choice) Says() string { return c.Scheme.Says(c.Version) }

// Usual reports whether a call means the version that says none.
func (c Choice) Usual() bool { return c.Said() && c.Scheme.Means(c.Version) }

// Written is what a caller writes at the scheme's place.
func (c Choice) Written() string { return c.Scheme.Written(c.Version) }
