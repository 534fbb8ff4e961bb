# frozen_string_literal: true

# What somebody decided about a write: choice is 'other' (its cluster comes from
# another image), 'zeros', 'zeros_all' or 'without'; cluster and part say where,
# files what it hits; by and at (ISO 8601) who decided, and when.
WriteDecision = Struct.new(:choice, :title, :image_id, :cluster, :part, :files, :by, :at, keyword_init: true)
