package assess

var installationBroken = Class{
	"installation-broken", 11, Error, "Installation broken", "Broken", "broken",
	"an installation on a machine does not work, or half of it is missing",
	nil, // judged machine by machine
}
