<?php
// Answers lines of KIND, X, Y (tab-separated) with Composer's semver.
require "Composer/Semver/autoload.php";

use Composer\Semver\Comparator;
use Composer\Semver\Semver;
use Composer\Semver\VersionParser;

set_error_handler(function ($severity, $message) { throw new UnexpectedValueException($message); });

function answer($kind, $x, $y)
{
    try {
        if ($kind === "order") {
            $parser = new VersionParser();
            $a = $parser->normalize($x);
            $b = $parser->normalize($y);
            return (string) version_compare($a, $b);
        }
        return Semver::satisfies($y, $x) ? "true" : "false";
    } catch (UnexpectedValueException $e) {
        return "error";
    }
}

while (($line = fgets(STDIN)) !== false) {
    echo answer(...explode("\t", rtrim($line, "\n"))), "\n";
}
