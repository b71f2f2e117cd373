# Answers lines of KIND, X, Y (tab-separated) with RubyGems.
def answer(kind, x, y)
  return (Gem::Version.new(x) <=> Gem::Version.new(y)).to_s if kind == "order"
  Gem::Requirement.new((x.empty? ? [x] : x.split(",", -1))).satisfied_by?(Gem::Version.new(y)).to_s
rescue ArgumentError
  "error"
end

while (line = $stdin.gets)
  puts answer(*line.chomp.split("\t", -1))
end
