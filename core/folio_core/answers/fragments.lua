-- Reads a JSON list of texts (CommonMark with maths between dollars), writes a JSON list of what Typst sets for each.
-- Nothing in a text reaches a file or a network: raw markup becomes the words it is made of, a picture its description.
local FORMAT = "commonmark+tex_math_dollars+pipe_tables+hard_line_breaks"

local as_words = {
  Image = function(image)
    return { pandoc.Str("[picture: "), pandoc.Span(image.caption), pandoc.Str(" " .. image.src .. "]") }
  end,
  Link = function(link)
    local shown = pandoc.utils.stringify(link.content)
    if shown == link.target then return pandoc.Str(shown) end
    return { pandoc.Span(link.content), pandoc.Str(" (" .. link.target .. ")") }
  end,
  RawInline = function(raw) return pandoc.Str(raw.text) end,
  RawBlock = function(raw) return pandoc.Para({ pandoc.Str(raw.text) }) end,
  Header = function(header) return pandoc.Para({ pandoc.Strong(header.content) }) end,
  Math = function(math) -- its columns would stand without a gap: "ax > 0" for "a, where x > 0"
    local function spaced(from, rows, to) return from .. rows:gsub("&", "&\\quad ") .. to end
    math.text = math.text:gsub("(\\begin{d?r?cases})(.-)(\\end{d?r?cases})", spaced)
    return math
  end,
  HorizontalRule = function() return pandoc.Para({ pandoc.Str("* * *") }) end,
}

local texts = pandoc.json.decode(io.read("a"), false)
local written = {}
for at, text in ipairs(texts) do
  local read, document = pcall(pandoc.read, text, FORMAT)
  if not read then document = pandoc.Pandoc({ pandoc.CodeBlock(text) }) end
  document = document:walk(as_words)
  written[at] = pandoc.write(document, "typst")
end
io.write(pandoc.json.encode(written))
