package contract

import "oldledger/core/source"

// A rule by what comes of breaking it: the description is refused; it has an error, a warning, a hint. means is what is read instead.

func refusal(name, means string) source.Rule {
	return source.Rule{Name: name, Severity: source.Error, Refused: true, Means: means}
}

func mistake(name, means string) source.Rule {
	return source.Rule{Name: name, Severity: source.Error, Means: means}
}

func warning(name, means string) source.Rule {
	return source.Rule{Name: name, Severity: source.Warning, Means: means}
}

func hint(name, means string) source.Rule {
	return source.Rule{Name: name, Severity: source.Hint, Means: means}
}

// The rules of readers: what can be wrong with a description that is still read, and what is read instead (docs/design/compatibility.md,
// Mistakes are read). What breaks a rule and has no settled meaning is undecided where it matters.
var (
	NoDescription   = refusal("no-description", "The text does not say in which format and version it is a description.")
	ReferenceBroken = refusal("reference-broken", "A reference leads nowhere: the description is not whole.")
	TooMuch         = refusal("too-much", "What templates make of the description is beyond a limit.")

	KeyUnknown   = warning("key-unknown", "A key that does not exist here is left out.")
	KeyMisspelt  = mistake("key-misspelt", "A key that is nearly one that exists is left out.")
	KeyMissing   = warning("key-missing", "A key that must be there is not; the rest is read.")
	KeyOfOther   = mistake("key-of-other-version", "A key of another version of the format is left out, unless a row here says otherwise.")
	KeyIgnored   = warning("key-ignored", "What stands beside $ref in OpenAPI 2.0 and 3.0 is left out.")
	WordsIgnored = hint("words-ignored", "Words beside $ref in OpenAPI 2.0 and 3.0 are left out.")
	KindWrong    = mistake("kind-wrong",
		"A value of the wrong kind is left out; where it is a keyword of a schema, what the schema admits is undecided.")
	ValueEmpty      = hint("value-empty", "A key without a value counts as not there.")
	TextForNumber   = mistake("number-as-text", "A number written as text is the number.")
	TextForBoolean  = mistake("boolean-as-text", "true or false written as text is the boolean.")
	NumberWrong     = mistake("number-wrong", "A number that the keyword cannot have is left out.")
	WordUnknown     = mistake("word-unknown", "A word that is none of those that the key may have is left out.")
	TypeUnknown     = mistake("type-unknown", "A type that does not exist is left out.")
	TypeNull        = mistake("type-null", "The type null in OpenAPI 3.0 admits null.")
	TypeList        = mistake("type-list", "A list of types in OpenAPI 2.0 and 3.0 admits each of them.")
	NullableIgnored = mistake("nullable-ignored", "nullable does not exist since OpenAPI 3.1, and is left out.")
	LimitOtherWay   = mistake("limit-of-other-version", "An exclusive limit written as another version has it is read as it is meant.")
	RangeEmpty      = mistake("range-empty", "A range whose end lies before its beginning admits nothing.")
	EnumTwice       = warning("value-twice", "A value that a list holds twice counts once.")
	RequiredFlag    = mistake("required-as-flag", "required: true on a member is left out.")
	RequiredUnknown = warning("required-unknown", "A required name that is declared nowhere is demanded all the same.")
	ListEmpty       = mistake("list-empty", "A list that needs entries and has none is left out.")
	ValueRefused    = warning("value-refused", "An example or default that its schema refuses is not used.")
	PatternUnread   = mistake("pattern-unreadable", "A pattern that is no regular expression is undecided.")

	ParameterUndeclared = mistake("parameter-undeclared", "A parameter that a path uses and nobody declares is a required string.")
	ParameterUnused     = mistake("parameter-unused", "A path parameter that the path does not use does not exist.")
	ParameterOptional   = mistake("parameter-optional", "A path parameter is required, whatever it says.")
	ParameterTwice      = mistake("parameter-twice", "Of two declarations of one parameter the first counts.")
	ParameterBroken     = mistake("parameter-broken", "A parameter that does not say its name and place is left out.")
	ContentTwice        = mistake("content-twice", "Of several media types of one parameter the first counts; beside schema none does.")
	PathBroken          = mistake("path-broken",
		"A path without its slash is read with it; one that cannot be meant is left out. Of a parameter that it names twice each place has the same value.")
	PathTwice         = mistake("path-twice", "The operations of two keys that are one path are joined.")
	OperationTwice    = mistake("operation-twice", "Of an operation that stands twice the first counts.")
	IDTwice           = mistake("id-twice", "Two operations have one operationId; both are read, and the first is found by it.")
	StatusUnknown     = mistake("status-unknown", "A response under a key that is no status is left out.")
	MediaTypeBroken   = mistake("media-type-broken", "Content under a key that is no media type is left out.")
	BodyTwice         = mistake("body-twice", "Of several bodies of one request the first counts.")
	ReferenceCircular = mistake("reference-circular",
		"A reference that leads back to itself describes nothing: what it admits is undecided.")
	TargetMissing    = mistake("target-missing", "A link or mapping that names nothing is left out.")
	GroupUndeclared  = hint("group-undeclared", "A tag that is not declared is a group of its own, without a description.")
	SchemeUndeclared = mistake("scheme-undeclared",
		"A security scheme that is not declared is one of unknown kind, equal to itself by its name.")
	SchemeBroken = mistake("scheme-broken",
		"A security scheme that does not say how it works is one of unknown kind, equal to itself by its name.")
	ScopeUndeclared   = warning("scope-undeclared", "A scope that no flow declares is asked for all the same.")
	ServerBroken      = mistake("server-broken", "An address that cannot be one is read as it is meant where that is plain, and left out else.")
	DeprecationBroken = mistake("deprecation-broken", "A deprecation with a mistake announces what of it can be read.")

	NameUndeclared = mistake("name-undeclared", "A trait, resource type, annotation or parameter that is not declared is left out.")
	FacetOfOther   = mistake("facet-of-other-type", "A facet that the type does not have is left out.")
	TemplateBroken = mistake("template-broken", "What a template cannot make is left out.")
	FragmentWrong  = mistake("fragment-wrong",
		"A file that holds another kind of RAML than its place asks for is read as what the place asks for.")
	ExpressionWrong = mistake("expression-wrong", "A type expression that cannot be read admits anything: undecided.")
	OverlayChanges  = mistake("overlay-changes", "What an overlay of RAML changes of what the API does is left out.")
	TooLittle       = warning("not-enough", "Something that must be said is not; what is said is read.")
)

// Rules lists all rules, those of texts first.
var Rules = []source.Rule{
	source.Syntax, source.KeyTwice, source.TooLarge, source.NoFile, source.OutsideSet, source.TooMany,
	NoDescription, ReferenceBroken, TooMuch, OverlayChanges,
	KeyUnknown, KeyMisspelt, KeyMissing, KeyOfOther, KeyIgnored, WordsIgnored, KindWrong, ValueEmpty, TextForNumber, TextForBoolean,
	NumberWrong, WordUnknown,
	TypeUnknown, TypeNull, TypeList, NullableIgnored, LimitOtherWay, RangeEmpty, EnumTwice, RequiredFlag, RequiredUnknown, ListEmpty,
	ValueRefused, PatternUnread,
	ParameterUndeclared, ParameterUnused, ParameterOptional, ParameterTwice, ParameterBroken, ContentTwice,
	PathBroken, PathTwice, OperationTwice, IDTwice, StatusUnknown, MediaTypeBroken, BodyTwice,
	ReferenceCircular, TargetMissing, GroupUndeclared, SchemeUndeclared, SchemeBroken, ScopeUndeclared, ServerBroken, DeprecationBroken,
	NameUndeclared, FacetOfOther, TemplateBroken, FragmentWrong, ExpressionWrong, TooLittle,
}
