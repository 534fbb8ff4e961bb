# frozen_string_literal: true

# A photo of a computer's label, of its inside, or of whatever else the next
# colleague should see.
class ComputerPhoto < ActiveRecord::Base
  include AtBench

  MOST = 12 # of one computer
  OF = %w[label inside other].freeze

  belongs_to :computer
  belongs_to :technician

  validates :of, inclusion: { in: OF, message: "is one of #{OF.join(', ')}" }
  after_destroy_commit { FileUtils.rm_f(path) if here? }

  def path = Config.path('pictures', file)
end
