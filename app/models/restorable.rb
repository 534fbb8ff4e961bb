# frozen_string_literal: true

# What a docket can restore. A model that includes this can be named by the seal
# of a source and by a write, and answers:
#
#   uid, document, taken_at, used_bytes   what it is: its identity, and what is known of it (Evrel::Image::Document)
#   gone_because                          why it cannot be what was sealed any more, as a text; nil while it can
#   source_name                           where it is, for people
#   source_place                          a text: speeds are like each other where this is the same
#
# The way to what it holds is SourceAccess.
module Restorable
  KINDS = { 'image' => 'Image', 'drive' => 'DriveSource' }.freeze

  # @param told [Hash, nil] "kind" and "id", as in the decision of a seal
  # @return [Restorable, nil]
  def self.find(told)
    kind = told && KINDS[told['kind']]
    kind&.constantize&.find_by(id: told['id'])
  end

  # @return [Hash] as a seal names it
  def as_source = { kind: KINDS.key(self.class.name), id: }
end
