package assess

var rulesMistaken = Class{
	"rules-mistaken", 7, Warning, "Rules mistaken", "Mistaken", "mistaken",
	"a repository's own rules (`.wexo.yaml`) hold something that cannot be understood; the rest of them holds",
	nil, // of files
}
