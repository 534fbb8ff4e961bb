# frozen_string_literal: true

module Evrel
  module Restore
    # One operation of a write; bytes is what it will move, nil where that says
    # nothing.
    Order = Struct.new(:id, :kind, :title, :detail, :bytes, :part, keyword_init: true)
  end
end
