package contract

import "oldledger/core/source"

// The rules of readers: what can be wrong with a description that is still read, and what is read instead (COMPATIBILITY section 7c).
// What breaks a rule and has no settled meaning is undecided where it matters.
var (
	NoDescription   = source.Rule{Name: "no-description", Severity: source.Error, Refused: true, Means: "The text does not say in which format and version it is a description."}
	ReferenceBroken = source.Rule{Name: "reference-broken", Severity: source.Error, Refused: true, Means: "A reference leads nowhere: the description is not whole."}
	TooMuch         = source.Rule{Name: "too-much", Severity: source.Error, Refused: true, Means: "What templates make of the description is beyond a limit."}

	KeyUnknown      = source.Rule{Name: "key-unknown", Severity: source.Warning, Means: "A key that does not exist here is left out."}
	KeyMisspelt     = source.Rule{Name: "key-misspelt", Severity: source.Error, Means: "A key that is nearly one that exists is left out."}
	KeyMissing      = source.Rule{Name: "key-missing", Severity: source.Warning, Means: "A key that must be there is not; the rest is read."}
	KeyOfOther      = source.Rule{Name: "key-of-other-version", Severity: source.Error, Means: "A key of another version of the format is left out, unless a row here says otherwise."}
	KeyIgnored      = source.Rule{Name: "key-ignored", Severity: source.Warning, Means: "What stands beside $ref in OpenAPI 2.0 and 3.0 is left out."}
	WordsIgnored    = source.Rule{Name: "words-ignored", Severity: source.Hint, Means: "Words beside $ref in OpenAPI 2.0 and 3.0 are left out."}
	KindWrong       = source.Rule{Name: "kind-wrong", Severity: source.Error, Means: "A value of the wrong kind is left out; where it is a keyword of a schema, what the schema admits is undecided."}
	ValueEmpty      = source.Rule{Name: "value-empty", Severity: source.Hint, Means: "A key without a value counts as not there."}
	TextForNumber   = source.Rule{Name: "number-as-text", Severity: source.Error, Means: "A number written as text is the number."}
	TextForBoolean  = source.Rule{Name: "boolean-as-text", Severity: source.Error, Means: "true or false written as text is the boolean."}
	NumberWrong     = source.Rule{Name: "number-wrong", Severity: source.Error, Means: "A number that the keyword cannot have is left out."}
	WordUnknown     = source.Rule{Name: "word-unknown", Severity: source.Error, Means: "A word that is none of those that the key may have is left out."}
	TypeUnknown     = source.Rule{Name: "type-unknown", Severity: source.Error, Means: "A type that does not exist is left out."}
	TypeNull        = source.Rule{Name: "type-null", Severity: source.Error, Means: "The type null in OpenAPI 3.0 admits null."}
	TypeList        = source.Rule{Name: "type-list", Severity: source.Error, Means: "A list of types in OpenAPI 2.0 and 3.0 admits each of them."}
	NullableIgnored = source.Rule{Name: "nullable-ignored", Severity: source.Error, Means: "nullable does not exist since OpenAPI 3.1, and is left out."}
	LimitOtherWay   = source.Rule{Name: "limit-of-other-version", Severity: source.Error, Means: "An exclusive limit written as another version has it is read as it is meant."}
	RangeEmpty      = source.Rule{Name: "range-empty", Severity: source.Error, Means: "A range whose end lies before its beginning admits nothing."}
	EnumTwice       = source.Rule{Name: "value-twice", Severity: source.Warning, Means: "A value that a list holds twice counts once."}
	RequiredFlag    = source.Rule{Name: "required-as-flag", Severity: source.Error, Means: "required: true on a member is left out."}
	RequiredUnknown = source.Rule{Name: "required-unknown", Severity: source.Warning, Means: "A required name that is declared nowhere is demanded all the same."}
	ListEmpty       = source.Rule{Name: "list-empty", Severity: source.Error, Means: "A list that needs entries and has none is left out."}
	ValueRefused    = source.Rule{Name: "value-refused", Severity: source.Warning, Means: "An example or default that its schema refuses is not used."}
	PatternUnread   = source.Rule{Name: "pattern-unreadable", Severity: source.Error, Means: "A pattern that is no regular expression is undecided."}

	ParameterUndeclared = source.Rule{Name: "parameter-undeclared", Severity: source.Error, Means: "A parameter that a path uses and nobody declares is a required string."}
	ParameterUnused     = source.Rule{Name: "parameter-unused", Severity: source.Error, Means: "A path parameter that the path does not use does not exist."}
	ParameterOptional   = source.Rule{Name: "parameter-optional", Severity: source.Error, Means: "A path parameter is required, whatever it says."}
	ParameterTwice      = source.Rule{Name: "parameter-twice", Severity: source.Error, Means: "Of two declarations of one parameter the first counts."}
	ParameterBroken     = source.Rule{Name: "parameter-broken", Severity: source.Error, Means: "A parameter that does not say its name and place is left out."}
	ContentTwice        = source.Rule{Name: "content-twice", Severity: source.Error, Means: "Of several media types of one parameter the first counts; beside schema none does."}
	PathBroken          = source.Rule{Name: "path-broken", Severity: source.Error, Means: "A path without its slash is read with it; one that cannot be meant is left out. Of a parameter that it names twice each place has the same value."}
	PathTwice           = source.Rule{Name: "path-twice", Severity: source.Error, Means: "The operations of two keys that are one path are joined."}
	OperationTwice      = source.Rule{Name: "operation-twice", Severity: source.Error, Means: "Of an operation that stands twice the first counts."}
	IDTwice             = source.Rule{Name: "id-twice", Severity: source.Error, Means: "Two operations have one operationId; both are read, and the first is found by it."}
	StatusUnknown       = source.Rule{Name: "status-unknown", Severity: source.Error, Means: "A response under a key that is no status is left out."}
	MediaTypeBroken     = source.Rule{Name: "media-type-broken", Severity: source.Error, Means: "Content under a key that is no media type is left out."}
	BodyTwice           = source.Rule{Name: "body-twice", Severity: source.Error, Means: "Of several bodies of one request the first counts."}
	ReferenceCircular   = source.Rule{Name: "reference-circular", Severity: source.Error, Means: "A reference that leads back to itself describes nothing: what it admits is undecided."}
	TargetMissing       = source.Rule{Name: "target-missing", Severity: source.Error, Means: "A link or mapping that names nothing is left out."}
	GroupUndeclared     = source.Rule{Name: "group-undeclared", Severity: source.Hint, Means: "A tag that is not declared is a group of its own, without a description."}
	SchemeUndeclared    = source.Rule{Name: "scheme-undeclared", Severity: source.Error, Means: "A security scheme that is not declared is one of unknown kind, equal to itself by its name."}
	SchemeBroken        = source.Rule{Name: "scheme-broken", Severity: source.Error, Means: "A security scheme that does not say how it works is one of unknown kind, equal to itself by its name."}
	ScopeUndeclared     = source.Rule{Name: "scope-undeclared", Severity: source.Warning, Means: "A scope that no flow declares is asked for all the same."}
	ServerBroken        = source.Rule{Name: "server-broken", Severity: source.Error, Means: "An address that cannot be one is left out."}
	DeprecationBroken   = source.Rule{Name: "deprecation-broken", Severity: source.Error, Means: "A deprecation with a mistake announces what of it can be read."}

	NameUndeclared  = source.Rule{Name: "name-undeclared", Severity: source.Error, Means: "A trait, resource type, annotation or parameter that is not declared is left out."}
	FacetOfOther    = source.Rule{Name: "facet-of-other-type", Severity: source.Error, Means: "A facet that the type does not have is left out."}
	TemplateBroken  = source.Rule{Name: "template-broken", Severity: source.Error, Means: "What a template cannot make is left out."}
	FragmentWrong   = source.Rule{Name: "fragment-wrong", Severity: source.Error, Means: "A file that holds another kind of RAML than its place asks for is read as what the place asks for."}
	ExpressionWrong = source.Rule{Name: "expression-wrong", Severity: source.Error, Means: "A type expression that cannot be read admits anything: undecided."}
	OverlayChanges  = source.Rule{Name: "overlay-changes", Severity: source.Error, Means: "What an overlay of RAML changes of what the API does is left out."}
	TooLittle       = source.Rule{Name: "not-enough", Severity: source.Warning, Means: "Something that must be said is not; what is said is read."}
)

// Rules lists all rules, those of texts first.
var Rules = []source.Rule{
	source.Syntax, source.KeyTwice, source.TooLarge, source.NoFile, source.OutsideSet, source.TooMany,
	NoDescription, ReferenceBroken, TooMuch, OverlayChanges,
	KeyUnknown, KeyMisspelt, KeyMissing, KeyOfOther, KeyIgnored, WordsIgnored, KindWrong, ValueEmpty, TextForNumber, TextForBoolean, NumberWrong, WordUnknown,
	TypeUnknown, TypeNull, TypeList, NullableIgnored, LimitOtherWay, RangeEmpty, EnumTwice, RequiredFlag, RequiredUnknown, ListEmpty, ValueRefused, PatternUnread,
	ParameterUndeclared, ParameterUnused, ParameterOptional, ParameterTwice, ParameterBroken, ContentTwice,
	PathBroken, PathTwice, OperationTwice, IDTwice, StatusUnknown, MediaTypeBroken, BodyTwice,
	ReferenceCircular, TargetMissing, GroupUndeclared, SchemeUndeclared, SchemeBroken, ScopeUndeclared, ServerBroken, DeprecationBroken,
	NameUndeclared, FacetOfOther, TemplateBroken, FragmentWrong, ExpressionWrong, TooLittle,
}
