# Answers lines of KIND, X, Y (tab-separated) with Elixir's Version.
answer = fn
  ["order", x, y] ->
    with {:ok, a} <- Version.parse(x), {:ok, b} <- Version.parse(y) do
      case Version.compare(a, b) do
        :lt -> "-1"
        :eq -> "0"
        :gt -> "1"
      end
    else
      _ -> "error"
    end

  ["range", x, y] ->
    with {:ok, requirement} <- Version.parse_requirement(x), {:ok, version} <- Version.parse(y) do
      to_string(Version.match?(version, requirement))
    else
      _ -> "error"
    end
end

IO.stream(:stdio, :line)
|> Stream.map(fn line -> line |> String.trim_trailing("\n") |> String.split("\t") |> answer.() end)
|> Stream.chunk_every(1000)
|> Enum.each(fn lines -> IO.puts(Enum.join(lines, "\n")) end)
