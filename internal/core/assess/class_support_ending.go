package assess

var supportEnding = Class{
	"support-ending", 1, Warning, "Support ending", "Ending soon", "ending",
	"support ends within half a year of the day (`horizon`), or before the repository's planned end",
	func(k *check) { k.support(k.ending) },
}
