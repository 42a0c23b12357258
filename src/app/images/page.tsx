import { ImageList } from '@/features/image/image-list';
import { imageSummaries } from '@/server/services/image-view';

export default async function ImagesPage() {
  return <ImageList images={await imageSummaries()} />;
}
