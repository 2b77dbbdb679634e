# The JSON Schema of plans, made from the table of options (`make docs` writes it to inst/schema).

plan_schema <- function() {
  keys <- options_table()$plan
  properties <- Map(function(entry, name) {
    with_help(if (entry$kind == "step") step_schema(name) else kind_schema(entry), entry, if (entry$kind == "step") "; false leaves it out")
  }, keys, names(keys))
  list(
    `$schema` = "https://json-schema.org/draft/2020-12/schema", `$id` = "https://scalewort.example.org/schema/plan.json",
    title = "A scalewort plan",
    description = "What is to be done with a file of answers, from reading to the report. Paths are relative to the plan.",
    type = "object", required = required_keys(keys), additionalProperties = FALSE, properties = properties
  )
}

with_help <- function(schema, entry, more = "") if (is.null(entry$help)) schema else c(list(description = paste0(entry$help, more)), schema)

required_keys <- function(entries) as.list(names(Filter(function(entry) entry$required, entries)))

# The options of a step, from every verb that works in it.
step_entries <- function(step) {
  verbs <- Filter(function(verb) identical(verb$step, step), options_table()$verbs)
  entries <- unlist(lapply(unname(names(verbs)), verb_options, place = "plan"), recursive = FALSE)
  lapply(entries, function(entry) utils::modifyList(entry, list(kind = if (is.null(entry$plan_kind)) entry$kind else entry$plan_kind)))
}

# Steps whose options a plan sets; `structure` says what is confirmed, and has none.
configured_steps <- function() names(Filter(function(entry) entry$kind == "step", options_table()$plan))

step_schema <- function(step) {
  entries <- step_entries(step)
  if (length(entries) == 0) {
    return(list(type = "boolean"))
  }
  properties <- Map(function(entry) with_help(kind_schema(entry), entry), entries)
  list(anyOf = list(list(type = "boolean"), list(type = "object", properties = properties, additionalProperties = FALSE)))
}

# What a value of each kind looks like.
kind_schema <- function(entry) {
  text <- list(type = "string", minLength = 1)
  code <- list(type = list("string", "number"))
  number <- c(list(type = "number"), bounds_of(entry))
  choice <- list(type = "string", enum = as.list(entry$choices))
  switch(entry$kind,
    choice = choice, flag = list(type = "boolean"), number = number, whole = c(list(type = "integer"), bounds_of(entry)),
    wholes = one_or_several(c(list(type = "integer"), bounds_of(entry))), numbers = one_or_several(number),
    choices = one_or_several(choice), names = , columns = one_or_several(text), codes = one_or_several(code),
    list = if (entry$of == "codes") several_of(code) else list(type = "array", items = choice),
    code = code, places = named_by(code),
    weights = named_by(number), signs = named_by(list(type = "string", enum = list("+", "-", "0"))), leads = named_by(one_or_several(text)),
    marks = either(number, named_by(number)), cuts = either(number, several_of(number), named_by(one_or_several(number))),
    modes = either(choice, named_by(choice)), form = either(choice, several_of(choice), named_by(list(type = "number"))),
    norms = either(text, named_by(one_or_several(code))),
    release = either(one_or_several(text), named_by(one_or_several(text))),
    bounds = named_by(either(list(type = "number"), several_of(list(type = "number")))),
    data = either(text, several_of(text), record_of(entry$fields)),
    structure = either(text, named_by(one_or_several(text))),
    anything = stats::setNames(list(), character()),
    record = record_of(entry$fields), records = list(type = "array", items = record_of(entry$fields)),
    text
  )
}

bounds_of <- function(entry) if (!is.null(entry$range)) list(minimum = entry$range[1], maximum = entry$range[2])
several_of <- function(schema) list(type = "array", items = schema, minItems = 1)
either <- function(...) list(anyOf = list(...))
one_or_several <- function(schema) either(schema, several_of(schema))
named_by <- function(schema) list(type = "object", additionalProperties = schema)

record_of <- function(fields) {
  fields <- Map(whole_entry, fields, names(fields))
  list(type = "object", properties = lapply(fields, kind_schema), required = required_keys(fields), additionalProperties = FALSE)
}

schema_text <- function(schema = plan_schema()) as.character(jsonlite::toJSON(schema, auto_unbox = TRUE, pretty = 2, digits = NA))
