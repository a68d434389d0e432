# Ponds in Kakoune: source this file from your kakrc, or put it into autoload.

hook global BufCreate .*[.]pond %{
    set-option buffer filetype pond
}

hook global WinSetOption filetype=pond %{
    require-module pond
    add-highlighter window/pond ref pond
    set-option window comment_line '//'
    set-option window indentwidth 4
    hook -once -always window WinSetOption filetype=.* %{ remove-highlighter window/pond }
}

provide-module pond %§
    add-highlighter shared/pond regions
    add-highlighter shared/pond/code default-region group
    add-highlighter shared/pond/comment region '//' '$' fill comment
    add-highlighter shared/pond/text region '"' (?<!\\)(\\\\)*" fill string
    add-highlighter shared/pond/code/number regex '\b[0-9][0-9_]*(\.[0-9][0-9_]*)?([ \t]*(%|(per min|turn/s|per s|deg/s|rad/s|ticks|tick|turn|u/s2|min|deg|rad|u/s|ms|s|u)\b))?' 0:value
    add-highlighter shared/pond/code/word regex '\b(a|above|activate|after|again|alive|all|along|always|and|angle|any|anywhere|arena|around|as|at|attach|attached|because|become|becoming|behavior|below|birth|births|blast|body|born|bottom|bounce|box|but|by|center|circle|clear|count|credit|damage|deactivate|detach|direction|distance|down|drag|drifts|each|edge|edges|else|end|ended|ends|enter|entities|even|every|expect|facing|falloff|first|fixed|follows|for|friction|from|gone|gravity|head|heal|health|heard|held|hits|hold|hurt|if|impact|in|inactive|input|inside|is|its|keep|keeping|key|kind|knob|label|lasts|least|leave|left|let|limit|lives|look|looks|maker|makes|margin|message|messages|middle|most|mount|move|nearest|never|none|not|of|off|on|once|one|open|or|origin|outlives|over|overlapping|owner|part|passes|peak|per|place|played|pointer|pond|press|push|quitting|radius|random|rate|ray|reach|release|repeat|replace|requests|right|ring|rounds|routine|say|self|send|sensor|sent|shielded|show|size|solid|spaced|spares|spawn|spawner|speed|spots|spread|square|state|states|steps|straight|tag|tap|tape|text|the|thrust|tick|time|times|to|top|touch|touches|touching|toward|turn|unheard|until|up|upright|uses|value|vars|vel|velocity|view|wait|waiting|wall|watch|wave|weight|weightless|when|where|while|widened|with|within|wrap|x|y|zone)\b' 0:keyword
    add-highlighter shared/pond/code/constant regex '\b(true|false|here|teal|amber|rose|blue|violet|lime|sand|grey|white|orange)\b' 0:value
    add-highlighter shared/pond/code/definition regex '^\h*(?:off\h+)?(?:kind|spawner|behavior|knob|spots|zone|input|message|watch|routine|to|value)\h+(\w+)' 1:type
§

# With a client of the Language Server Protocol (kakoune-lsp 18 or later):
#
#     hook global BufSetOption filetype=pond %{
#         set-option buffer lsp_servers %{
#             [tickpond]
#             command = "tickpond"
#             args = ["lsp"]
#             root_globs = ["*.pond"]
#         }
#     }
